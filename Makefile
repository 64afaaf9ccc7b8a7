# `make demo` and `make test` are all the set-up there is.

VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.installed

.PHONY: demo test check bench fidelity screenshots typeface schemas clean

demo: $(STAMP)
	rm -rf demo
	$(BIN)/aksara demo demo

test: $(STAMP)
	sh tools/system_packages.sh
	$(BIN)/python -m pytest -n auto --dist worksteal

check: $(STAMP)
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy

bench: $(STAMP)
	sh tools/system_packages.sh
	$(BIN)/python tools/bench.py

fidelity: $(STAMP)
	@test -n "$(FONTS)" || { echo 'Say which fonts: make fidelity FONTS=folder'; exit 2; }
	sh tools/system_packages.sh
	$(BIN)/python tools/fidelity.py $(FONTS)

screenshots: $(STAMP)
	sh tools/system_packages.sh xvfb xterm scrot
	$(BIN)/python tools/screenshots.py

typeface: $(STAMP)
	$(BIN)/python tools/draw_penyu.py

schemas: $(STAMP)
	$(BIN)/python tools/make_schemas.py

$(STAMP): pyproject.toml
	python3 -c 'import sys; sys.exit(sys.version_info < (3, 11) and "Aksara needs Python 3.11 or newer")'
	python3 -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --editable '.[dev]'
	touch $(STAMP)

clean:
	rm -rf $(VENV) demo .pytest_cache .mypy_cache .ruff_cache .hypothesis
