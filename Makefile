# Two commands do everything: `make demo` and `make test`.
PYTHON ?= python3
BIN := .venv/bin
export PYTHONDONTWRITEBYTECODE :=
# browsers and servers wait for each other: one more than there are cores
TESTERS ?= 3
DEMO_HOME ?= $(CURDIR)/.lenskeep/demo

.PHONY: setup develop prepared demo test test-all check races bench shots frontend lock clean

# what it takes to run; what it takes to work on it comes on top
setup: .venv/.run
develop: .venv/.dev

.venv/.run: lock/run.txt lock/uv.txt pyproject.toml tools/setup.sh
	PYTHON="$(PYTHON)" sh tools/setup.sh run
	touch $@

.venv/.dev: .venv/.run lock/dev.txt
	PYTHON="$(PYTHON)" sh tools/setup.sh dev
	touch $@

demo: setup
	LENSKEEP_HOME="$${LENSKEEP_HOME:-$(DEMO_HOME)}" $(BIN)/lenskeep demo

# Kernels of other sources must not be met, nor any be compiled while something is measured
prepared: develop
	$(BIN)/lenskeep prepare

PYTEST := -n $(TESTERS) --dist loadfile --no-loadscope-reorder --durations=10
test: check prepared
	sh tools/chromium.sh
	$(BIN)/pytest $(PYTEST)

# What is slow by nature, too, and properties with 20 times as many examples; writes docs/proof.md
test-all: check prepared
	sh tools/chromium.sh
	$(BIN)/python -m tools.proof $(PYTEST)

check: develop
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

# The store, the studio and the queue once more, threads changed at every statement; SEED draws otherwise
races: prepared
	$(BIN)/pytest -n 2 -p tools.running.races --races $${SEED:-1} tests/store tests/studio tests/work

bench: prepared
	sh tools/chromium.sh
	$(BIN)/python -m benchmarks

shots: prepared
	sh tools/chromium.sh
	$(BIN)/python -m tools.shots

# The newest releases that the limits in pyproject.toml allow: names, versions and sums, no addresses
PIN := $(BIN)/uv pip compile --quiet --universal --python-version 3.11 --generate-hashes --no-annotate --no-header
lock: develop
	$(PIN) $(UPGRADE) --extra dev --extra build pyproject.toml -o lock/dev.txt
	$(PIN) --extra build pyproject.toml -c lock/dev.txt -o lock/run.txt
	echo uv | $(PIN) -c lock/dev.txt - -o lock/uv.txt

frontend:
	cd frontend && npm ci && npm run build

clean:
	rm -rf .venv .lenskeep build .mypy_cache .ruff_cache .pytest_cache .hypothesis
