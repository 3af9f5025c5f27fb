# Sourced by ./run and ./test: makes the environment in .venv and installs missing Debian libraries.
# usage: set_up DEBIAN_PACKAGE...

set_up() {
    missing=""
    if command -v dpkg-query >/dev/null 2>&1; then
        for package in "$@"; do
            dpkg-query -W -f='${Status}' "$package" "${package}t64" 2>/dev/null | grep -q "ok installed" || missing="$missing $package"
        done
    fi
    if [ -n "$missing" ]; then
        if [ "$(id -u)" = 0 ]; then
            echo "Installing Debian packages:$missing" >&2
            { apt-get install -y -qq $missing || { apt-get update -qq && apt-get install -y -qq $missing; }; } \
                >/dev/null 2>&1 || { echo "These Debian packages could not be installed:$missing" >&2; exit 2; }
        else
            echo "Debian packages are missing. Type:  sudo apt-get install$missing" >&2
            exit 2
        fi
    fi
    stamp=".venv/.stamp-$(cat requirements.lock pyproject.toml | sha256sum | cut -c1-16)"
    [ -f "$stamp" ] && return
    python=""
    for candidate in python3 python3.11 python3.12 python3.13; do
        if "$candidate" -c 'import sys, venv; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            python=$candidate
            break
        fi
    done
    if [ -z "$python" ]; then
        echo "Dubrel needs Python 3.11 or newer. Type:  sudo apt-get install python3 python3-venv" >&2
        exit 2
    fi
    echo "Setting up the environment in .venv (once, some minutes)" >&2
    rm -f .venv/.stamp-*
    [ -x .venv/bin/python ] || "$python" -m venv .venv || exit 2
    .venv/bin/python -m pip install -q --no-deps -r requirements.lock >&2 || exit 2
    .venv/bin/python -m pip install -q --no-deps -e . >&2 || exit 2
    touch "$stamp"
}

QT_LIBRARIES="libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1 libxcb-cursor0
    libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0
    libpulse0 libgomp1 libglib2.0-0 libxrandr2 libwayland-cursor0"

# letters of every script, in the window, in films and in documents
FONTS="fonts-noto-core fonts-noto-cjk"

# the browser engine in which ./test looks at web pages
BROWSER_LIBRARIES="libnss3 libnspr4 libxcomposite1 libxdamage1 libxrandr2 libxtst6 libxkbfile1 libasound2 libgbm1 libdrm2"
