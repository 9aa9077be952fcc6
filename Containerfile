# Yard Cut in a container, run as nobody:
#   podman build -t yardcut .
#   podman run --rm -it -v "$PWD:/yard" yardcut yard_2031.csv
#   podman run --rm -v "$PWD:/yard:ro" yardcut cut yard_2031.csv -l "keep species = 'oak'" > oak.csv
# What it writes goes where it is started, so mount a folder that nobody may write to, or take standard output.

ARG PYTHON=3.13
FROM python:${PYTHON}-slim AS built
WORKDIR /build
COPY pyproject.toml constraints.txt README.md LICENSE* ./
COPY src src
COPY share share
RUN python -m venv /opt/yardcut \
    && /opt/yardcut/bin/pip install --no-cache-dir -c constraints.txt ".[postgresql,web]"

FROM python:${PYTHON}-slim
COPY --from=built /opt/yardcut /opt/yardcut
ENV PATH=/opt/yardcut/bin:$PATH \
    HOME=/tmp/yardcut \
    XDG_CACHE_HOME=/tmp/yardcut/cache \
    XDG_STATE_HOME=/tmp/yardcut/state \
    XDG_CONFIG_HOME=/tmp/yardcut/config
RUN mkdir -p /yard /tmp/yardcut && chown nobody:nogroup /yard /tmp/yardcut && chmod 700 /tmp/yardcut
USER nobody
WORKDIR /yard
VOLUME /yard
ENTRYPOINT ["yardcut"]
CMD ["--help"]
