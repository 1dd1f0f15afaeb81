#!/bin/sh
# Makes .venv with everything Lens Keep needs; the Makefile compiles the kernels after it.
set -eu
cd "$(dirname "$0")/.."
if ! "$PYTHON" -c 'import ensurepip, venv' 2>/dev/null; then
    echo "Installing Python's venv module" && apt-get update -q && apt-get install -y -q python3-venv
fi
"$PYTHON" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2] < (3, 13))' || {
    echo "Lens Keep needs Python 3.11 or 3.12; this is $("$PYTHON" --version). Set PYTHON=..." >&2
    exit 1
}
[ -x .venv/bin/python ] || "$PYTHON" -m venv .venv
.venv/bin/python -m pip install --quiet --disable-pip-version-check -e '.[dev]'
touch .venv/.ready
