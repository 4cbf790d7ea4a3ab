#!/bin/sh
# Installs Debian's Chromium for the browser tests when it is missing: the one without windows, which is a quarter faster, where there is one.
set -eu
for has in chromium-headless-shell chromium; do
    command -v "$has" >/dev/null 2>&1 && exit 0
done
SUDO=""
[ "$(id -u)" = 0 ] || SUDO="sudo"
echo "Installing Debian's chromium for the browser tests"
$SUDO apt-get update -qq
for has in chromium-headless-shell chromium; do
    DEBIAN_FRONTEND=noninteractive $SUDO apt-get install -y -qq --no-install-recommends "$has" >/dev/null && exit 0
done
exit 1
