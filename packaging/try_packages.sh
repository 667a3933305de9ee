#!/usr/bin/env bash
# SPDX-License-Identifier: Apache-2.0
# Installs the packages of build/packages into a clean Debian 12 in a folder, with nothing but their own dependencies, and
# measures there: the command line from its manual page to a transect, at both build levels. Needs root and debootstrap.
#   packaging/try_packages.sh FOLDER    FOLDER is made, and removed at the end
set -uo pipefail
root=$(cd "$(dirname "$(readlink -f "${BASH_SOURCE[0]}")")/.." && pwd)
clean=${1:?usage: packaging/try_packages.sh FOLDER}
fail() { printf 'packages: %s\n' "$*" >&2; exit 1; }
[ ! -e "$clean" ] || fail "$clean is there already: name a folder that is not"
trap 'umount "$clean/proc" 2>/dev/null; rm -rf --one-file-system "$clean"' EXIT

mirror=$(sed -n 's/^URIs: *//p; s/^deb \(\[[^]]*\] \)\?\([^ ]*\) .*/\2/p' /etc/apt/sources.list /etc/apt/sources.list.d/* 2>/dev/null | grep -v security | head -n 1)
debootstrap --variant=minbase bookworm "$clean" "${mirror:-http://deb.debian.org/debian}" >"$root/build/clean-root.log" 2>&1 \
    || { tail -n 20 "$root/build/clean-root.log" >&2; fail "debootstrap failed"; }
mount -t proc proc "$clean/proc" || fail "/proc cannot be mounted"
cp "$root"/build/packages/fell-cli_*.deb "$clean/tmp/"
in_root() { chroot "$clean" /usr/bin/env -i PATH=/usr/bin:/bin:/usr/sbin:/sbin HOME=/root LC_ALL=C.UTF-8 DEBIAN_FRONTEND=noninteractive "$@"; }
in_root sh -c 'apt-get install -y -qq --no-install-recommends /tmp/fell-cli_*.deb' >>"$root/build/clean-root.log" 2>&1 \
    || { tail -n 20 "$root/build/clean-root.log" >&2; fail "fell-cli could not be installed"; }
in_root fell-cli --version || fail "fell-cli does not start"
quads() { in_root env "$@" fell-cli mesh --world corrowdale --chunks 1 --repeat 1 --json 2>/dev/null | grep -o '"quads": *[0-9]*' | head -n 1; }
plain=$(quads FELL_LEVEL=plain) own=$(quads A=b)
[ -n "$own" ] && [ "$plain" = "$own" ] || fail "the meshes of the two build levels differ: $plain and $own"
in_root fell-cli transect --world level --vary stream.distance=1,2 --rounds 2 --frames 2 --no-draw --quiet --out /tmp/results \
    >"$root/build/clean-root-transect.log" 2>&1 || { cat "$root/build/clean-root-transect.log" >&2; fail "the transect failed"; }
[ -s "$clean/tmp/results/report.html" ] || fail "the transect left no report"
[ -s "$clean/usr/share/man/man1/fell-cli.1.gz" ] && [ -s "$clean/usr/share/bash-completion/completions/fell-cli" ] || fail "no manual page or completion"
in_root apt-get purge -y -qq fell-cli >>"$root/build/clean-root.log" 2>&1 || fail "fell-cli could not be removed"
[ ! -e "$clean/usr/lib/fell" ] && [ ! -e "$clean/usr/share/fell" ] || fail "files are left after its removal"

# A program with libfell-dev, compiled here against the unpacked package.
dev="$clean/tmp/dev"
dpkg-deb -x "$root"/build/packages/libfell-dev_*.deb "$dev" || fail "libfell-dev cannot be unpacked"
export PKG_CONFIG_PATH="$(echo "$dev"/usr/lib/*/pkgconfig)"
# shellcheck disable=SC2046  # a list of words
g++ -DFELL_RECIPE="\"$root/demo/corrowdale/recipe.json\"" "$root/tests/readme_example.cpp" $(pkg-config --cflags --libs fell) -o "$clean/tmp/example" \
    || fail "the example does not compile against libfell-dev"
"$clean/tmp/example" | grep -q '^[1-9][0-9]* quads' || fail "the example with libfell-dev does not run"
echo "packages: installed, measured at both build levels, removed; the example compiles and runs"
