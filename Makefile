# `make run` and `make test` set everything up first; a second run starts at once.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
RUN_STAMP := $(VENV)/.run-ready
TEST_STAMP := $(VENV)/.test-ready
JOB ?=

.PHONY: run test check mutants soak foreign shots bench clean

run: $(RUN_STAMP)
	@$(BIN)/swaddon bench $(JOB)

test: $(TEST_STAMP)
	@sh tools/check -p tests.covered

# the fast form: lint, types, contracts and the quick tests, in under two minutes
check: $(TEST_STAMP)
	@sh tools/check -m "not slow"

# are the tests awake? forty things are broken one at a time in a copy, and those that no test notices are listed
mutants: $(TEST_STAMP)
	@$(BIN)/python tools/mutants.py

# the long form: the log book's writers killed 200 times on each database, many seeds of warm against fresh, thousands of actions on the bench, a foreign picture set, and 200
# test prints on presses with hidden faults (these alone take an hour)
soak: $(TEST_STAMP)
	@SWADDON_KILLS=200 $(BIN)/python -m pytest -n 2 -s tests/session/test_log_keeper.py -k killed
	@SWADDON_SOAK=20 $(BIN)/python -m pytest -n 2 -s tests/core/plan/test_stages.py tests/ui/test_rough_hands.py tests/core/shop/test_weigh_in.py tests/core/inks/test_separation.py tests/acceptance/test_nonsense.py
	@$(BIN)/python tools/foreign --most 60
	@SWADDON_SEEDS=200 $(BIN)/python -m pytest -n 0 -s tests/acceptance/test_print_seeds.py

foreign: $(TEST_STAMP)
	@$(BIN)/python tools/foreign
	@$(BIN)/python tools/foreign/ends.py

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
