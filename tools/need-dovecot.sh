#!/bin/sh
# Makes sure that Debian's Dovecot is there, which the tests run against: installs it where that is permitted.
set -eu
if [ -x /usr/sbin/dovecot ]; then
    exit 0
fi
if [ "$(id -u)" = 0 ]; then
    run=""
elif command -v sudo >/dev/null && sudo -n true 2>/dev/null; then
    run="sudo"
else
    echo "The mailbox tests need Dovecot: ask an administrator for 'apt-get install dovecot-imapd'." >&2
    exit 1
fi
echo "Installing Dovecot ..."
$run apt-get update -qq
DEBIAN_FRONTEND=noninteractive $run apt-get install -y -qq dovecot-imapd >/dev/null
