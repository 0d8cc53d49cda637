# `make run` and `make test` set everything up first; a second run starts at once.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
RUN_STAMP := $(VENV)/.run-ready
TEST_STAMP := $(VENV)/.test-ready
JOB ?=

.PHONY: run test check shots bench clean

run: $(RUN_STAMP)
	@$(BIN)/swaddon bench $(JOB)

test: $(TEST_STAMP)
	@sh tools/check

check: test

shots: $(TEST_STAMP)
	@$(BIN)/python tools/shots.py

bench: $(TEST_STAMP)
	@$(BIN)/python tools/bench

$(RUN_STAMP): requirements/run.txt pyproject.toml $(wildcard src/swaddon/core/fast/kernels/*.py)
	@sh tools/setup run $(PYTHON)
	@touch $@

$(TEST_STAMP): requirements/dev.txt pyproject.toml $(wildcard src/swaddon/core/fast/kernels/*.py)
	@sh tools/setup dev $(PYTHON)
	@touch $@

clean:
	rm -rf $(VENV)
