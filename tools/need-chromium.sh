#!/bin/sh
# Makes sure that Debian's Chromium and its driver are there: installs them where that is permitted.
set -eu
if [ -x /usr/bin/chromium ] && [ -x /usr/bin/chromedriver ]; then
    exit 0
fi
if [ "$(id -u)" = 0 ]; then
    run=""
elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
    run="sudo"
else
    echo "The browser tests need Chromium: ask an administrator for 'apt-get install chromium chromium-driver'." >&2
    exit 1
fi
echo "Installing Chromium and its driver ..."
$run apt-get update -qq
DEBIAN_FRONTEND=noninteractive $run apt-get install -y -qq chromium chromium-driver >/dev/null
