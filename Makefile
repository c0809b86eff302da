# Two commands do everything: `make demo` and `make test`.
PYTHON := .venv/bin/python
OFFSCREEN := QT_QPA_PLATFORM=offscreen

.PHONY: setup demo test bench lint screenshots mutants fuzz clean

setup:
	@scripts/setup

demo: setup
	@.venv/bin/hearthline open || test $$? -eq 2

test: setup
	$(OFFSCREEN) $(PYTHON) -m pytest -n 2 --dist worksteal

bench: setup
	$(OFFSCREEN) $(PYTHON) -m benchmarks

lint: setup
	.venv/bin/ruff check .
	.venv/bin/ruff format --check .
	.venv/bin/lint-imports
	.venv/bin/mypy

screenshots: setup
	$(OFFSCREEN) $(PYTHON) scripts/screenshots.py

# Deliberate errors that the tests must find; an hour.
mutants: setup
	$(OFFSCREEN) $(PYTHON) scripts/mutants.py $(MUTANTS)

# Inputs without end and many times the random cases; SECONDS and EXAMPLES say for how long.
SECONDS ?= 600
EXAMPLES ?= 50
fuzz: setup
	$(OFFSCREEN) $(PYTHON) -m tests.fuzz --seconds $(SECONDS) --first $$(date +%s)
	$(OFFSCREEN) HEARTHLINE_EXAMPLES=$(EXAMPLES) $(PYTHON) -m pytest -n 2 -m hypothesis

clean:
	rm -rf .venv build *.egg-info
	find . -name __pycache__ -prune -exec rm -rf {} +
