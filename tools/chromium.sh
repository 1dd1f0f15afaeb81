#!/bin/sh
# Installs Chromium and its driver for the browser tests, if they are missing.
set -eu
if command -v chromium >/dev/null 2>&1 && command -v chromedriver >/dev/null 2>&1; then
    exit 0
fi
echo "Installing Chromium for the browser tests"
if [ "$(id -u)" = 0 ]; then SUDO=; else SUDO=sudo; fi
$SUDO apt-get update -q
DEBIAN_FRONTEND=noninteractive $SUDO apt-get install -y -q chromium chromium-driver
