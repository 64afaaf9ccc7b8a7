# `make demo` and `make test` are all the set-up there is.

VENV := .venv
BIN := $(VENV)/bin
PROGRAM := $(VENV)/.program
TOOLS := $(VENV)/.tools
# Python keeps what it has compiled, as it does for people who install the program: else each start takes half as long
# again.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo test check bench fidelity fuzz screenshots typeface schemas docs clean

demo: $(PROGRAM)
	rm -rf demo
	$(BIN)/aksara demo demo

# One process more than there are processors, since some tests wait for servers and watchers.
test: $(TOOLS)
	sh tools/system_packages.sh
	$(BIN)/python -m pytest -n $$(( $$(getconf _NPROCESSORS_ONLN) + 1 )) --dist worksteal

check: $(TOOLS)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/mypy tools/*.py

bench: $(TOOLS)
	sh tools/system_packages.sh
	$(BIN)/python tools/bench.py

fidelity: $(TOOLS)
	@test -n "$(FONTS)" || { echo 'Say which fonts: make fidelity FONTS=folder'; exit 2; }
	sh tools/system_packages.sh
	$(BIN)/python tools/fidelity.py $(FONTS)

fuzz: $(TOOLS)
	@test -n "$(MINUTES)" || { echo 'Say for how long: make fuzz MINUTES=10'; exit 2; }
	sh tools/system_packages.sh
	$(BIN)/python tools/fuzz.py $(MINUTES) $(if $(SEED),--seed $(SEED))

screenshots: $(TOOLS)
	sh tools/system_packages.sh xvfb xterm scrot
	$(BIN)/python tools/screenshots.py

typeface: $(TOOLS)
	$(BIN)/python tools/draw_penyu.py

docs: $(TOOLS)
	rm -rf site
	$(BIN)/python tools/make_docs.py

schemas: $(TOOLS)
	$(BIN)/python tools/make_schemas.py

# What the program itself needs; a first look waits for no more than that.
$(PROGRAM): pyproject.toml
	python3 -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Aksara needs Python 3.11 or newer")'
	python3 -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --editable .
	touch $@

# And what tests and checks need besides.
$(TOOLS): $(PROGRAM)
	$(BIN)/python -m pip install --quiet --editable '.[dev]'
	touch $@

clean:
	rm -rf $(VENV) demo .pytest_cache .mypy_cache .ruff_cache .hypothesis
