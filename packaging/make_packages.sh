#!/usr/bin/env bash
# SPDX-License-Identifier: Apache-2.0
# Builds the Debian packages fell, fell-cli, libfell-dev and fell-doc into build/packages, from two builds: one for
# x86-64-v3 and one for plain x86-64. Then checks them with lintian where it is installed.
set -uo pipefail
root=$(cd "$(dirname "$(readlink -f "${BASH_SOURCE[0]}")")/.." && pwd)
# shellcheck source=../cmake/setup.sh
. "$root/cmake/setup.sh"
programs=(fell-cli fell-app fell-archive)

configure_preset plain && build_preset plain "${programs[@]}" || exit 1
grep -qs '^FELL_TESTS:BOOL=ON' "$root/build/CMakeCache.txt" || off=-DFELL_TESTS=OFF
configure_preset release ${off:+"$off"} -DFELL_PLAIN_BUILD="$root/build-plain" && build_preset release "${programs[@]}" fell-launcher || exit 1
rm -rf "$root/build/packages"
(cd "$root/build" && cpack -G DEB -B packages) >"$root/build/packages.log" 2>&1
made=$?
rm -rf "$root/build/packages/_CPack_Packages"
# Without the second build again: a later cmake --install must not take programs of another day from it.
configure_preset release -DFELL_PLAIN_BUILD= || exit 1
[ "$made" -eq 0 ] || { cat "$root/build/packages.log" >&2; say "fell: cpack failed"; exit 1; }
if command -v lintian >/dev/null 2>&1; then
    lintian --allow-root --fail-on error "$root"/build/packages/*.deb || { say "fell: lintian found errors"; exit 1; }
fi
ls -l "$root"/build/packages/*.deb
