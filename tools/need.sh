#!/bin/sh
# Makes sure that what the tests run against is there: installs it from Debian's packages where that is permitted.
# Usage: need.sh "packages" file ... (the files that show that they are installed)
set -eu
packages=$1
shift
missing=""
for file in "$@"; do
    [ -x "$file" ] || missing=$file
done
[ -n "$missing" ] || exit 0
if [ "$(id -u)" = 0 ]; then
    run=""
elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
    run="sudo"
else
    echo "The tests need $missing: ask an administrator for 'apt-get install $packages'." >&2
    exit 1
fi
echo "Installing $packages ..."
$run apt-get update -qq
# shellcheck disable=SC2086 # the packages are words
DEBIAN_FRONTEND=noninteractive $run apt-get install -y -qq $packages >/dev/null
