#!/bin/sh
# Installs Debian's Chromium for the browser tests when it is missing.
set -eu
command -v chromium >/dev/null 2>&1 && exit 0
SUDO=""
[ "$(id -u)" = 0 ] || SUDO="sudo"
echo "Installing Debian's chromium for the browser tests"
$SUDO apt-get update -qq
DEBIAN_FRONTEND=noninteractive $SUDO apt-get install -y -qq --no-install-recommends chromium >/dev/null
