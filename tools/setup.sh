# Sourced by ./run and ./test: makes the environment in .venv and installs missing Debian libraries.
# usage: set_up DEBIAN_PACKAGE...

# how one installs Debian packages here: without sudo where there is none, or none is needed
install_by_hand() {
    if [ "$(id -u)" = 0 ]; then echo "apt-get install$1"
    elif command -v sudo >/dev/null 2>&1; then echo "sudo apt-get install$1"
    else echo "apt-get install$1   (as root)"
    fi
}

install_packages() {
    echo "Installing Debian packages:$*" >&2
    { apt-get install -y -qq "$@" || { apt-get update -qq && apt-get install -y -qq "$@"; }; } >/dev/null 2>&1
}

# a Python that is new enough, and can make an environment with pip in it
find_python() {
    python=""
    for candidate in python3 python3.11 python3.12 python3.13 python3.14; do
        if "$candidate" -c 'import sys, venv, ensurepip; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            python=$candidate
            return
        fi
    done
}

set_up() {
    missing=""
    if command -v dpkg-query >/dev/null 2>&1; then
        for package in "$@"; do
            dpkg-query -W -f='${Status}' "$package" "${package}t64" 2>/dev/null | grep -q "ok installed" || missing="$missing $package"
        done
    fi
    if [ -n "$missing" ]; then
        if [ "$(id -u)" = 0 ]; then
            install_packages $missing || {
                echo "These Debian packages could not be installed:$missing" >&2
                exit 2
            }
        else
            echo "Debian packages are missing. Type:  $(install_by_hand "$missing")" >&2
            exit 2
        fi
    fi
    stamp=".venv/.stamp-$(cat requirements.lock pyproject.toml | sha256sum | cut -c1-16)"
    if [ -f "$stamp" ] && .venv/bin/python -c '' 2>/dev/null; then return; fi
    find_python
    if [ -z "$python" ] && [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
        install_packages python3 python3-venv && find_python
    fi
    if [ -z "$python" ]; then
        echo "Dubrel needs Python 3.11 or newer with its venv module. Type:  $(install_by_hand " python3 python3-venv")" >&2
        exit 2
    fi
    echo "Setting up the environment in .venv (once, some minutes)" >&2
    rm -f .venv/.stamp-*
    # one that was begun and never finished has no pip that answers: it is made anew
    .venv/bin/python -m pip --version >/dev/null 2>&1 || "$python" -m venv --clear .venv || exit 2
    .venv/bin/python -m pip install -q --no-deps -r requirements.lock >&2 || exit 2
    .venv/bin/python -m pip install -q --no-deps -e . >&2 || exit 2
    touch "$stamp"
}

QT_LIBRARIES="libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1 libxcb-cursor0
    libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0
    libpulse0 libgomp1 libglib2.0-0 libxrandr2 libwayland-cursor0"

# letters of every script, in the window, in films and in documents; what finds, shapes and lays them out
FONTS="fonts-noto-core fonts-noto-cjk fontconfig libfribidi0 libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"

# the browser engine in which ./test looks at web pages
BROWSER_LIBRARIES="libnss3 libnspr4 libxcomposite1 libxdamage1 libxrandr2 libxtst6 libxkbfile1 libasound2 libgbm1 libdrm2"

# libraries of others that read what Dubrel writes, for ./test
set_up_readers() {
    command -v npm >/dev/null 2>&1 || install_packages nodejs npm || {
        echo "npm is missing. Type:  $(install_by_hand " nodejs npm")" >&2
        exit 2
    }
    stamp="tools/readers/node_modules/.stamp-$(sha256sum < tools/readers/package-lock.json | cut -c1-16)"
    if [ -f "$stamp" ]; then return; fi
    npm ci --silent --no-audit --no-fund --prefix tools/readers >&2 || exit 2
    touch "$stamp"
}
