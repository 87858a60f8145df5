#!/bin/sh
# The browser tests drive Debian's headless Chromium; install it where it is missing. The whole browser does, too.
set -e
[ -x "${CHROMIUM:-/usr/bin/chromium-headless-shell}" ] && exit 0
whole() { [ -x /usr/bin/chromium ]; }
if [ "$(id -u)" = 0 ]; then run=""; elif command -v sudo >/dev/null; then run="sudo"; else
  whole && exit 0
  echo "Please install it first, as root: apt-get install chromium-headless-shell" >&2; exit 1
fi
echo "Headless Chromium is missing; installing Debian's package."
install="$run env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium-headless-shell"
{ $run apt-get update -qq && $install >/dev/null; } || whole
