# All set-up happens in .venv; every word below brings it up to date first.
PYTHON ?= python3
BIN := .venv/bin
SEED ?= 1
# Byte code is kept, as that of an installed program is, whatever the settings of this shell say.
export PYTHONDONTWRITEBYTECODE :=

.PHONY: bounds docs dist sbom bundle deb manual share far browser demo programs test quick long coverage pythons fuzz kept sheet lint bench screenshots lock clean

demo: .venv/ready
	$(BIN)/rhabdos --demo

# The programs that tests ask are installed while pip and the linters are at work.
test: .venv/libraries
	$(MAKE) --no-print-directory -j 2 --output-sync=target lint programs
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest
	QT_QPA_PLATFORM=offscreen sh tools/smoke.sh $(BIN)

programs:
	sh tools/servers.sh
	sh tools/validators.sh

# What a change of the core is tried with first, in seconds.
quick: .venv/ready
	RHABDOS_EXAMPLES=20 $(BIN)/python -m pytest -m "not long and not slow and not spark" tests/stats tests/figure tests/test_memo.py tests/test_docs.py

# All random figures: the tests try a fifth of them.
long: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -m long
	RHABDOS_EXAMPLES=400 QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest tests/stats tests/data tests/figure

# What of each room the tests run, and a failure where that is less than 88 percent.
coverage: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest --cov=rhabdos --cov-report=json:.coverage.json --cov-report=
	$(BIN)/python tools/coverage_by_room.py .coverage.json 88

# The tests on every Python from 3.11 on that is installed here.
pythons: .venv/ready
	sh tools/every_python.sh

# The tests with the lowest and the newest versions of all that is needed.
bounds:
	sh tools/bounds.sh

# Ten thousand hostile files and recipes, and a random hand in the window; the tests try few.
fuzz: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tests.fuzzing 10000 $(SEED)
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tests.fuzzing_files 10000 $(SEED)
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tests.fuzzing_window 3000 $(or $(SEED),1)

# What kept figures paint and kept windows say, as it is now; read what git then shows, and look at them.
kept: .venv/ready
	$(BIN)/python -m tests.kept_figures
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tests.kept_paintings
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tests.kept_windows

# Twenty random figures on one sheet, to be looked at; another SEED draws others.
sheet: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tools.sheet $(SEED)

# Every picture of the manual, made by the program.
manual: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/manual.py

# What the desktop and shells are given, made anew from the parser and the icon.
share: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/share.py

lint: .venv/ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

bench: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m benchmarks

screenshots: .venv/ready
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/screenshots.py

# Writes requirements.lock anew from pyproject.toml.
lock:
	uv pip compile --universal --generate-hashes --no-header --no-annotate --extra dev pyproject.toml -o requirements.lock
	uv pip compile --universal --generate-hashes --no-header --no-annotate tools/release.in -o requirements-release.lock

.venv/libraries: tools/system-libraries.sh
	PYTHON=$(PYTHON) sh tools/system-libraries.sh
	mkdir -p .venv
	touch .venv/libraries

.venv/ready: requirements.lock pyproject.toml .venv/libraries
	$(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --require-hashes -r requirements.lock
	$(BIN)/python -m pip install --quiet --no-deps -e .
	$(BIN)/python -m compileall -q src
	touch .venv/ready

# What is released: the site of all documentation, wheel and sdist (the same bytes each time), a list
# of all dependencies, a bundle that brings Python and every library, and a Debian package of it.
docs: .venv/ready .venv-release/ready
	$(BIN)/python tools/site.py site

dist: .venv-release/ready
	.venv-release/bin/python tools/distributions.py dist

sbom: .venv/ready .venv-release/ready
	sh tools/sbom.sh

bundle: .venv/ready .venv-release/ready
	sh tools/bundle/make.sh

deb: bundle
	sh tools/deb.sh

.venv-release/ready: requirements-release.lock
	$(PYTHON) -m venv .venv-release
	.venv-release/bin/python -m pip install --quiet --require-hashes -r requirements-release.lock
	touch .venv-release/ready

clean:
	rm -rf .venv .venv-release rhabdos-demo build dist site

# Far tables on a cluster of this machine: Spark with two workers, its tests and what they take.
far:
	sh tools/far/run.sh

browser: .venv/ready
	sh tools/browser/check.sh $(BIN)
