# make demo   set up what is missing, start PostgreSQL on loopback, load the demonstration, serve
# make test   set up what is missing, run every test; the last line counts them
SHELL := /bin/bash
PYTHON ?= python3
BIN := .venv/bin
STAMPS := .stamps
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/tsconfig.json

.PHONY: demo serve test lint bench fuzz faults shots build types clean

demo: $(STAMPS)/system $(STAMPS)/python web/dist/index.html
	@exec $(BIN)/jaunecharge serve --demo

serve: $(STAMPS)/system $(STAMPS)/python web/dist/index.html
	@exec $(BIN)/jaunecharge serve

test: $(STAMPS)/system-tests $(STAMPS)/python-tests web/dist/index.html
	@$(BIN)/python tools/run_tests.py $(TESTS)

lint: $(STAMPS)/python-tests $(STAMPS)/web
	$(BIN)/ruff check src tests tools benchmarks
	$(BIN)/ruff format --check src tests tools benchmarks
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python tools/house.py
	cd web && npm run --silent check

bench: $(STAMPS)/system-tests $(STAMPS)/python-tests web/dist/index.html
	@$(BIN)/python -m benchmarks.run

# Ten minutes of each kind of hostile input; FUZZ_SECONDS=3600 for an hour of each, FUZZ_SEED=2 for others.
fuzz: $(STAMPS)/system-tests $(STAMPS)/python-tests web/dist/index.html
	@FUZZ_SECONDS=$${FUZZ_SECONDS:-600} $(BIN)/python -m unittest tests.fuzz.test_fuzz

# 200 kills of the application, 30 of the database, 10 full disks (as root), under load; 1,000 runs of the version before
# upgraded, interrupted five times: about an hour and a half.
faults: $(STAMPS)/system-tests $(STAMPS)/python-tests web/dist/index.html
	@$(BIN)/python -m benchmarks.faults $(FAULTS)
	@PHONE_STEPS=100 $(BIN)/python -m unittest -v tests.browser.test_phone_reports
	@INSTRUMENT_SECONDS=600 $(BIN)/python -m unittest -v tests.live.test_many_instruments
	@SERVER_KILLS=20 $(BIN)/python -m unittest -v tests.live.test_servers_under_fire
	@UPGRADE_RUNS=1000 $(BIN)/python -m unittest -v tests.store.test_series.Upgrade

shots: $(STAMPS)/system-tests $(STAMPS)/python-tests web/dist/index.html
	@$(BIN)/python tools/shots.py

build: web/dist/index.html

types: $(STAMPS)/python $(STAMPS)/web
	$(BIN)/jaunecharge openapi > openapi.json
	$(BIN)/python tools/rules.py > web/src/api/rules.ts
	$(BIN)/python tools/formats.py
	cd web && npm run --silent types

clean:
	rm -rf .venv web/node_modules web/dist $(STAMPS)

$(STAMPS)/system:
	@tools/system-packages.sh postgresql libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 fontconfig
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/system-tests: $(STAMPS)/system
	@tools/system-packages.sh chromium libreoffice-calc-nogui mosquitto
	@touch $@

$(BIN)/python:
	@echo "python: making a virtual environment"
	@$(PYTHON) -c 'import sys; sys.exit("Python 3.11 or newer is needed") if sys.version_info < (3, 11) else None'
	@$(PYTHON) -m venv .venv || { rm -rf .venv; echo "as root: apt-get install python3-venv" >&2; exit 1; }

$(STAMPS)/python: requirements.lock pyproject.toml | $(BIN)/python
	@echo "python: installing packages"
	@$(BIN)/python -m pip install -q --disable-pip-version-check -r requirements.lock
	@$(BIN)/python -m pip install -q --disable-pip-version-check --no-deps -e .
	@echo "python: compiling"
	@$(BIN)/python -m compileall -q src
	@$(BIN)/python -c 'from jaunecharge.core.simulator import warm_up; warm_up()'
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/python-tests: requirements-dev.lock $(STAMPS)/python
	@echo "python: installing packages for tests"
	@$(BIN)/python -m pip install -q --disable-pip-version-check -r requirements-dev.lock
	@touch $@

$(STAMPS)/web: web/package.json web/package-lock.json
	@node -e 'if (+process.versions.node.split(".")[0] < 20) { console.error("Node.js 20 or newer is needed"); process.exit(1) }'
	@echo "pages: installing packages"
	@cd web && npm ci --silent --no-progress
	@mkdir -p $(STAMPS) && touch $@

web/dist/index.html: $(STAMPS)/web $(WEB_SOURCES)
	@echo "pages: building"
	@cd web && npm run --silent build -- --logLevel warn
	@touch $@
