# Steps that ./start and ./test share: each looks first and does only what is missing.

# Many processes begin here: each would compile all of the sources for itself.
unset PYTHONDONTWRITEBYTECODE

say() { printf '  %s\n' "$*"; }
stop() { printf 'texallon: %s\n' "$*" >&2; exit 1; }

# Debian packages: installed when root, otherwise named.
install_debian() {
  local missing=("$@")
  [ "${#missing[@]}" -gt 0 ] || return 0
  if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
    say "installing Debian packages: ${missing[*]}"
    apt-get update -qq
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
  else
    stop "these Debian packages are missing; as root, run: apt-get install ${missing[*]}"
  fi
}

need_packages() {
  local missing=()
  command -v python3 >/dev/null || missing+=(python3)
  python3 -c 'import venv, ensurepip' 2>/dev/null || missing+=(python3-venv)
  command -v node >/dev/null || missing+=(nodejs)
  command -v npm >/dev/null || missing+=(npm)
  case " $* " in
    *" --database"*) ;;
    *) ls -d /usr/lib/postgresql/*/bin >/dev/null 2>&1 || command -v pg_ctl >/dev/null || missing+=(postgresql) ;;
  esac
  install_debian ${missing[@]+"${missing[@]}"}
  python3 -c 'import sys; sys.exit(not ((3, 11) <= sys.version_info < (3, 13)))' ||
    stop "Python 3.11 or 3.12 is needed; this is $(python3 --version)"
  [ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] || stop "Node 20 or newer is needed; this is $(node --version)"
}

# Reads OpenVDB files, by the system's Python; all else works without it.
want_openvdb() {
  /usr/bin/python3 -c 'import pyopenvdb' 2>/dev/null && return 0
  (install_debian python3-openvdb) || say "OpenVDB files can't be read here: python3-openvdb is not installed"
}

need_browser() {
  command -v chromium >/dev/null || install_debian chromium
}

# A virtual environment with exactly the pinned versions. The stamp says what it holds.
need_python() {
  local list="${1:-requirements.txt}"
  local wanted
  wanted="$(cat requirements*.txt pyproject.toml | sha256sum | cut -d' ' -f1)"
  [ -x .venv/bin/python ] || { say "making a virtual environment"; python3 -m venv .venv; }
  if ! grep -qs "^$list $wanted$" .venv/texallon-stamp; then
    say "installing Python packages ($list)"
    .venv/bin/python -m pip install -qq --disable-pip-version-check -r "$list"
    .venv/bin/python -m pip install -qq --disable-pip-version-check --no-deps -e .
    # What the tests need includes what the server needs.
    { echo "$list $wanted"; [ "$list" = requirements.txt ] || echo "requirements.txt $wanted"; } >.venv/texallon-stamp
  fi
}

# The page, built from its sources when they changed.
need_page() {
  local wanted
  if [ ! -d web/node_modules ] || ! cmp -s web/package-lock.json web/node_modules/.texallon-lock; then
    say "installing the page's packages"
    (cd web && npm ci --silent --no-progress)
    cp web/package-lock.json web/node_modules/.texallon-lock
  fi
  wanted="$(find web/src web/public web/index.html web/vite.config.ts web/package-lock.json -type f ! -name schema.d.ts | LC_ALL=C sort | xargs sha256sum | sha256sum | cut -d' ' -f1)"
  if [ "$(cat web/dist/.stamp 2>/dev/null)" != "$wanted" ]; then
    say "building the page"
    (cd web && npm run --silent types >/dev/null && npm run --silent build -- --logLevel error)
    echo "$wanted" >web/dist/.stamp
  fi
}
