# Two commands do everything: `make demo` and `make test`.
PYTHON ?= python3
BIN := .venv/bin
export PYTHONDONTWRITEBYTECODE :=
DEMO_HOME ?= $(CURDIR)/.lenskeep/demo

.PHONY: setup demo test check races bench shots frontend clean

setup: .venv/.ready .venv/.kernels

.venv/.ready: pyproject.toml tools/setup.sh
	PYTHON="$(PYTHON)" sh tools/setup.sh

# Numba keeps compiled kernels by the file they stand in and does not see changes of what they call
KERNELS := $(sort src/lenskeep/core/jit.py $(shell find src/lenskeep/core/engine -name "*.py"; grep -rl "core.jit import" src/lenskeep/core --include="*.py"))
.venv/.kernels: .venv/.ready $(KERNELS)
	find src -name '*.nb[ic]' -delete
	$(BIN)/python -m tools.warm
	touch .venv/.kernels

demo: setup
	LENSKEEP_HOME="$${LENSKEEP_HOME:-$(DEMO_HOME)}" $(BIN)/lenskeep demo

test: setup check
	sh tools/chromium.sh
	$(BIN)/pytest -n 2 --dist loadfile --durations=10

check: setup
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

# The store, the studio and the queue once more, threads changed at every statement; SEED draws otherwise
races: setup
	$(BIN)/pytest -n 2 -p tools.running.races --races $${SEED:-1} tests/store tests/studio tests/work

bench: setup
	sh tools/chromium.sh
	$(BIN)/python -m benchmarks

shots: setup
	sh tools/chromium.sh
	$(BIN)/python -m tools.shots

frontend:
	cd frontend && npm ci && npm run build

clean:
	rm -rf .venv .lenskeep build .mypy_cache .ruff_cache .pytest_cache .hypothesis
