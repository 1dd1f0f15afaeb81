#!/bin/sh
# Makes .venv with what the product needs ("run"), or with what developing it needs besides ("dev"), in exactly the
# versions and files of lock/. By uv where it is there or can be had, which is several times as fast, else by pip.
set -eu
cd "$(dirname "$0")/.."
WHAT="${1:-run}"
if ! "$PYTHON" -c 'import ensurepip, venv' 2>/dev/null; then
    echo "Installing Python's venv module" && apt-get update -q && apt-get install -y -q python3-venv
fi
"$PYTHON" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2] < (3, 13))' || {
    echo "Lens Keep needs Python 3.11 or 3.12; this is $("$PYTHON" --version). Set PYTHON=..." >&2
    exit 1
}
[ -x .venv/bin/python ] || "$PYTHON" -m venv .venv
PIP=".venv/bin/python -m pip --disable-pip-version-check"

UV="$(command -v uv || true)"
if [ -z "$UV" ] && $PIP install --quiet --require-hashes -r lock/uv.txt 2>/dev/null; then UV=.venv/bin/uv; fi

by_uv() {
    # what pip was told of this machine, uv does not read by itself
    index="$($PIP config get global.index-url 2>/dev/null || true)"
    cert="$($PIP config get global.cert 2>/dev/null || true)"
    if [ -n "$index" ]; then export UV_DEFAULT_INDEX="$index"; fi
    if [ -n "$cert" ]; then export SSL_CERT_FILE="$cert"; fi
    VIRTUAL_ENV="$PWD/.venv" "$UV" pip install --quiet --link-mode copy "$@"
}
get() { { [ -n "$UV" ] && by_uv "$@"; } || $PIP install --quiet "$@"; }

get --require-hashes -r "lock/$WHAT.txt"
get --no-deps --no-build-isolation -e .
