#!/bin/sh
# The tests drive the real interface in tmux: install it where we may, else say how.
command -v tmux >/dev/null 2>&1 && exit 0
if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" = 0 ]; then
    apt-get update -qq && apt-get install -y -qq tmux >/dev/null && exit 0
fi
echo "The tests need tmux. Install it with:  sudo apt-get install tmux  (or your system's own package command)" >&2
exit 1
