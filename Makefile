# make demo   sets up and starts Volumen on its demo artwork
# make test   sets up and runs every check
# make quick  the tests of the core alone
# Which Python the environment is made with; the system's own if it is left open.
PYTHON ?=
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready
DEMO ?=
# Windows, workers and readers are processes of their own: each would compile all modules again.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: setup demo run test quick check hooks monkey walk crash hostile bench stats lint format demos screenshots clean

setup: $(STAMP)

$(STAMP): pyproject.toml constraints.txt scripts/setup.sh
	PYTHON="$(PYTHON)" VENV="$(VENV)" sh scripts/setup.sh
	@touch $(STAMP)

demo: setup
	@sh scripts/demo.sh $(BIN)/volumen demo $(DEMO)

test: setup
	$(BIN)/ruff check src tests scripts
	$(BIN)/ruff format --check src tests scripts
	$(BIN)/mypy
	$(BIN)/lint-imports
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 2 --dist worksteal

# Unit tests of the core, without window, exports and whole jobs: under a minute.
quick: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -n 2 --dist worksteal -m "not slow" $(addprefix tests/,geometry colour shading compose render edit formats)

lint: setup
	$(BIN)/ruff check src tests scripts
	$(BIN)/ruff format --check src tests scripts
	$(BIN)/mypy
	$(BIN)/lint-imports

hooks:
	git config core.hooksPath scripts/hooks

format: setup
	$(BIN)/ruff check --fix src tests scripts
	$(BIN)/ruff format src tests scripts

bench: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/volumen bench

# Random hands on a demo (all of them without DEMO), kills and faults, hostile files: what the suite holds a little of.
EVENTS ?= 1000
SEED ?= 1
monkey: setup
	cd tests/harness && PYTHONPATH=../helpers QT_QPA_PLATFORM=offscreen $(abspath $(BIN))/python monkey.py --events $(EVENTS) --seed $(SEED) $(if $(DEMO),--demo $(DEMO))

# Every command, tool row and card button on every kind of object: something changes, shows or is said.
KIND ?=
walk: setup
	cd tests/harness && PYTHONPATH=../helpers QT_QPA_PLATFORM=offscreen $(abspath $(BIN))/python walk.py $(if $(KIND),--kind "$(KIND)")

crash: setup
	cd tests/harness && PYTHONPATH=../helpers QT_QPA_PLATFORM=offscreen $(abspath $(BIN))/python crash.py

hostile: setup
	cd tests/harness && PYTHONPATH=../helpers $(abspath $(BIN))/python hostile.py --seed $(SEED)

stats:
	@$(or $(PYTHON),python3) scripts/stats.py

demos: setup
	$(BIN)/python scripts/write_demos.py

screenshots: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python scripts/screenshots.py

clean:
	rm -rf $(VENV) .pytest_cache .mypy_cache .ruff_cache .hypothesis
