# SPDX-License-Identifier: Apache-2.0
# Shared by ./fell, ./check and .ci/run, which source it. Needs $root.
# Installs missing packages of packages.txt, configures a preset and builds it.

say() { printf '%s\n' "$*" >&2; }

# Prints the missing packages; $1 is "window" (what ./fell needs) or "all".
missing_packages() {
    local package
    sed -e 's/#.*//' -e 's/[[:space:]]//g' "$root/packages.txt" | while read -r package; do
        case $package in
        "") continue ;;
        ==tests==) [ "$1" = all ] && continue || break ;;
        esac
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q '^install ok installed' || printf '%s ' "$package"
    done
}

install_missing() {
    local missing
    command -v dpkg-query >/dev/null 2>&1 || { say "fell: this is not Debian; packages.txt lists the packages that Fell needs"; return 0; }
    missing=$(missing_packages "$1")
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

# Configures preset $1 with the CMake arguments after it. A build tree of another checkout is removed first.
configure_preset() {
    local preset=$1 tree="$root/build"
    shift
    [ "$preset" = release ] || tree="$root/build-$preset"
    if [ -f "$tree/CMakeCache.txt" ] && ! grep -qx "CMAKE_HOME_DIRECTORY:INTERNAL=$root" "$tree/CMakeCache.txt"; then
        rm -rf "$tree"
    fi
    (cd "$root" && cmake --preset "$preset" "$@") >"$root/build-$preset.log" 2>&1 || {
        cat "$root/build-$preset.log" >&2
        say "fell: configuring the preset $preset failed"
        return 1
    }
}

# Builds the targets after preset $1; all targets if none is named.
build_preset() {
    local preset=$1 tree="$root/build"
    shift
    [ "$preset" = release ] || tree="$root/build-$preset"
    [ $# -eq 0 ] || set -- --target "$@"
    cmake --build "$tree" "$@" >&2 || { say "fell: building the preset $preset failed"; return 1; }
}
