# Two commands set up everything on a fresh machine:  make demo   make test
PYTHON ?= python3
BIN := .venv/bin
# Many tests wait for a terminal most of the time.
WORKERS ?= $(shell echo $$((2 * $$(getconf _NPROCESSORS_ONLN))))

.PHONY: demo test check docs bench long mutants clean

$(BIN)/.installed: pyproject.toml constraints.txt
	@$(PYTHON) -c 'import sys; sys.exit(0 if sys.version_info >= (3, 11) else "Yard Cut needs Python 3.11 or later; say for example: make PYTHON=python3.12 demo")'
	$(PYTHON) -m venv .venv
	@# compiled by all processors, where pip does it with one; whatever the shell says, so that no start does it again
	$(BIN)/python -m pip install --no-compile --quiet --disable-pip-version-check -c constraints.txt -e '.[dev]'
	@env -u PYTHONDONTWRITEBYTECODE $(BIN)/python -m compileall -q -j 0 -x '/tests?/|/moto/|/mypy/|/pygments/lexers/' src $$($(BIN)/python -c 'import sysconfig; print(sysconfig.get_path("purelib"))') >/dev/null || true
	@touch $@

demo: $(BIN)/.installed
	$(BIN)/yardcut demo

test: $(BIN)/.installed
	@sh tests/need_tmux.sh
	@# what is compiled for the tests is kept, whatever the shell says: the next run need not do it again
	env -u PYTHONDONTWRITEBYTECODE $(BIN)/python -m pytest -n $(WORKERS) --dist worksteal

check: $(BIN)/.installed
	$(BIN)/ruff format --check src tests benchmarks reliability
	$(BIN)/ruff check src tests benchmarks reliability
	$(BIN)/mypy
	$(BIN)/lint-imports

docs: $(BIN)/.installed
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -c constraints.txt -e '.[docs]'
	NO_MKDOCS_2_WARNING=1 $(BIN)/mkdocs build --quiet --strict

bench: $(BIN)/.installed
	$(BIN)/python -m benchmarks

long: $(BIN)/.installed
	YARDCUT_LONG=1 $(MAKE) test
	$(BIN)/python -m reliability

mutants: $(BIN)/.installed
	$(BIN)/python -m reliability.mutants

clean:
	rm -rf .venv build dist site .pytest_cache .mypy_cache .ruff_cache .hypothesis
