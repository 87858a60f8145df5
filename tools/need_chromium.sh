#!/bin/sh
# The browser tests drive Debian's Chromium; install it where it is missing.
set -e
[ -x "${CHROMIUM:-/usr/bin/chromium}" ] && exit 0
echo "Chromium is missing; installing Debian's package."
if [ "$(id -u)" = 0 ]; then run=""; elif command -v sudo >/dev/null; then run="sudo"; else
  echo "Please install it first, as root: apt-get install chromium" >&2; exit 1
fi
$run apt-get update -qq
$run env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium >/dev/null
