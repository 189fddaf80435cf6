# Installs what is missing: Debian packages, the Python environment, the front end. Sourced by ./start and ./test.
# Each step leaves a stamp of what it was made from and is skipped while that has not changed.

say() { printf '%s\n' "$*" >&2; }

fail() {
    say "$*"
    exit 1
}

stamp_of() { cat "$@" | sha256sum | cut -d' ' -f1; }

# system_packages COMMAND:PACKAGE...   installs the packages whose command is not there
system_packages() {
    local missing=() pair
    for pair in "$@"; do
        PATH="$PATH:/usr/sbin:/sbin" command -v "${pair%%:*}" >/dev/null 2>&1 || missing+=("${pair#*:}")
    done
    [ ${#missing[@]} -eq 0 ] && return
    command -v apt-get >/dev/null 2>&1 || fail "These programs are missing and there is no apt-get to install them: ${missing[*]}"
    local root=()
    if [ "$(id -u)" -ne 0 ]; then
        command -v sudo >/dev/null 2>&1 || fail "Please install these packages as root, then try again: ${missing[*]}"
        root=(sudo)
    fi
    say "Installing ${missing[*]}"
    mkdir -p .data
    "${root[@]}" apt-get update -q >.data/apt.log 2>&1 || fail "apt-get update failed; see .data/apt.log"
    "${root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "${missing[@]}" >>.data/apt.log 2>&1 ||
        fail "apt-get could not install ${missing[*]}; see .data/apt.log"
}

find_python() {
    local name
    for name in python3.11 python3 python3.12 python3.13; do
        if command -v "$name" >/dev/null 2>&1 && "$name" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
            printf '%s' "$name"
            return
        fi
    done
    fail "Python 3.11 or newer is needed"
}

python_environment() {
    local python stamp
    python=$(find_python)
    "$python" -c 'import ensurepip' 2>/dev/null || system_packages "no-such-command:$("$python" -c 'import sys; print(f"python3.{sys.version_info.minor}-venv")')"
    stamp=$("$python" --version; pwd; stamp_of requirements.lock pyproject.toml)
    [ -x .venv/bin/open-lemma ] && [ "$(cat .venv/stamp 2>/dev/null)" = "$stamp" ] && return
    say "Making the Python environment (about a minute)"
    rm -rf .venv
    "$python" -m venv .venv
    mkdir -p .data
    {
        .venv/bin/python -m pip install -q --disable-pip-version-check --require-hashes -r requirements.lock &&
            .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
    } >.data/pip.log 2>&1 || fail "The Python packages could not be installed; see .data/pip.log"
    printf '%s' "$stamp" >.venv/stamp
}

front_end() {
    local stamp
    stamp=$(node --version; stamp_of ui/package-lock.json)
    if [ "$(cat ui/node_modules/.stamp 2>/dev/null)" != "$stamp" ]; then
        say "Installing what the front end is built with"
        mkdir -p .data
        (cd ui && npm ci --no-audit --no-fund) >.data/npm.log 2>&1 || fail "The front end's packages could not be installed; see .data/npm.log"
        printf '%s' "$stamp" >ui/node_modules/.stamp
    fi
    stamp=$(cd ui && find src public index.html vite.config.ts svelte.config.js tsconfig.json package-lock.json -type f | LC_ALL=C sort | xargs sha256sum | sha256sum)
    if [ "$(cat ui/dist/.stamp 2>/dev/null)" != "$stamp" ]; then
        say "Building the front end"
        (cd ui && npm run --silent build -- --logLevel warn)
        printf '%s' "$stamp" >ui/dist/.stamp
    fi
    # What the examples of the handbook give is worked out here, whenever they or the formulas behind them change.
    stamp=$(find src/open_lemma/core/language/vocabulary src/open_lemma/core/formula src/open_lemma/core/figure src/open_lemma/core/run/handbook.py src/open_lemma/service/shown.py -name '*.py' | LC_ALL=C sort | xargs sha256sum | sha256sum)
    if [ "$(cat ui/shown/.stamp 2>/dev/null)" != "$stamp" ]; then
        say "Working out the examples of the handbook"
        rm -rf ui/shown
        .venv/bin/python -m open_lemma.service.shown ui/shown >/dev/null
        printf '%s' "$stamp" >ui/shown/.stamp
    fi
}

command -v node >/dev/null 2>&1 || system_packages node:nodejs npm:npm
