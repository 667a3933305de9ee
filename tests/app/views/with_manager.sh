#!/bin/sh
# SPDX-License-Identifier: GPL-3.0-or-later
# Runs a command next to a window manager that is ready: a window that is mapped while it starts may never be exposed.
ready=$(mktemp -u)
openbox --startup "touch $ready" &
tries=0
while [ ! -e "$ready" ] && [ "$tries" -lt 300 ]; do
    sleep 0.1
    tries=$((tries + 1))
done
rm -f "$ready"
exec "$@"
