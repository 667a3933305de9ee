# SPDX-License-Identifier: Apache-2.0
# What ./fell and ./check have in common; sourced by both. Needs $root.
# Installs what is missing from packages.txt, configures and builds the release preset.

say() { printf '%s\n' "$*" >&2; }

missing_packages() {
    local package
    sed -e 's/#.*//' -e 's/[[:space:]]//g' "$root/packages.txt" | while read -r package; do
        [ -n "$package" ] || continue
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q '^install ok installed' || printf '%s ' "$package"
    done
}

install_missing() {
    local missing
    command -v dpkg-query >/dev/null 2>&1 || { say "fell: this is no Debian machine; packages.txt lists what is needed"; return 0; }
    missing=$(missing_packages)
    [ -n "$missing" ] || return 0
    if [ "$(id -u)" -ne 0 ]; then
        say "fell: packages are missing; as root, run:"
        say "apt-get install -y --no-install-recommends $missing"
        return 3
    fi
    say "fell: installing $missing"
    # shellcheck disable=SC2086  # a list of words
    { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing; } >&2 || {
        say "fell: apt-get could not install: $missing"
        return 3
    }
}

# Builds preset $1. A build tree that somebody else's checkout left behind is configured anew.
build_preset() {
    local preset=$1 tree="$root/build" launcher=()
    [ "$preset" = release ] || tree="$root/build-$preset"
    command -v ccache >/dev/null 2>&1 && launcher=(-DCMAKE_CXX_COMPILER_LAUNCHER=ccache)
    if [ -f "$tree/CMakeCache.txt" ] && ! grep -qx "CMAKE_HOME_DIRECTORY:INTERNAL=$root" "$tree/CMakeCache.txt"; then
        rm -rf "$tree"
    fi
    (cd "$root" && cmake --preset "$preset" "${launcher[@]}") >"$root/build-$preset.log" 2>&1 || {
        cat "$root/build-$preset.log" >&2
        say "fell: configuring the preset $preset failed"
        return 1
    }
    cmake --build "$tree" >&2 || { say "fell: building the preset $preset failed"; return 1; }
}
