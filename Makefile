# make setup | demo | test [ONLY=tests/mail] | quick | soak | api | schema | screenshots | bench | clean
PORT ?= 8025
DATA ?= .demo
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
FRONT := frontend
STATIC := hieranome/web/static
FRONT_SOURCES := $(shell find $(FRONT)/src $(FRONT)/public -type f 2>/dev/null) $(FRONT)/index.html $(FRONT)/vite.config.ts

.PHONY: setup programs demo test quick quick-unit lint front unit soak api schema screenshots bench wheel clean

setup: $(VENV)/.ready $(STATIC)/.ready

$(VENV)/.ready: requirements/dev.txt pyproject.toml
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Hieranome needs Python 3.11 or newer: install it, or name one with PYTHON=..."; exit 1; }
	@$(PYTHON) -c 'import ensurepip, venv' 2>/dev/null || { echo "Python's venv is missing: apt-get install python3-venv"; exit 1; }
	$(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements/dev.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable .
	@touch $@

$(FRONT)/node_modules/.ready: $(FRONT)/package-lock.json
	@command -v npm >/dev/null || { echo "Node.js 20 with npm is missing: install it, then run make again."; exit 1; }
	cd $(FRONT) && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

$(STATIC)/.ready: $(FRONT)/node_modules/.ready $(FRONT_SOURCES)
	cd $(FRONT) && npm run --silent build
	@touch $@

demo: setup
	$(BIN)/hieranome demo --data $(DATA) --port $(PORT)

programs:
	@sh tools/need.sh "chromium chromium-driver" /usr/bin/chromium /usr/bin/chromedriver
	@sh tools/need.sh "dovecot-imapd dovecot-sieve dovecot-managesieved" /usr/sbin/dovecot /usr/bin/sieve-test /usr/lib/dovecot/managesieve

test:
	@began=$$(date +%s) && $(MAKE) --no-print-directory setup programs && export HIERANOME_SETUP=$$(($$(date +%s) - began)) \
		&& $(MAKE) --no-print-directory lint unit

quick: setup
	@$(MAKE) --no-print-directory -j2 --output-sync=target lint quick-unit

quick-unit: front
	$(BIN)/python tools/run_tests.py --quick

lint: $(VENV)/.ready $(FRONT)/node_modules/.ready
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	cd $(FRONT) && npm run --silent check && npm run --silent lint

front: $(FRONT)/node_modules/.ready
	cd $(FRONT) && npm run --silent test

unit: setup programs $(if $(ONLY),,front)
	$(BIN)/python tools/run_tests.py $(ONLY)

soak: setup
	HIERANOME_SOAK=1 $(BIN)/python tools/run_tests.py tests/mail/test_hostile.py tests/web/test_schema.py tests/web/test_odd.py tests/app/mailbox/test_beside_others.py tests/app/mailbox/test_storm.py tests/app/rules/test_random.py tests/demo/test_world.py

api: setup
	$(BIN)/python -m hieranome.web.describe docs/openapi.json
	cd $(FRONT) && npm run --silent types

schema: setup
	$(BIN)/python -m hieranome.store.schema docs/schema.sql

screenshots: setup programs
	$(BIN)/python tools/screenshots.py

bench: setup
	$(BIN)/python -m bench.engine
	$(BIN)/python -m bench.owners
	$(BIN)/python -m bench.certainty
	$(BIN)/python -m bench.spill
	$(BIN)/python -m bench.own_buckets
	$(BIN)/python -m bench.lessons
	$(BIN)/python -m bench.runs
	$(BIN)/python -m bench.life
	$(BIN)/python -m bench.topics
	$(BIN)/python -m bench.owed
	$(BIN)/python -m bench.briefings
	$(BIN)/python -m bench.away
	$(BIN)/python -m bench.routines
	$(BIN)/python -m bench.starting
	$(BIN)/python -m bench.patterns
	$(BIN)/python -m bench.hostile
	$(BIN)/python bench/import.py
	$(BIN)/python bench/api.py
	$(BIN)/python bench/page.py
	$(BIN)/python -m bench.rules
	$(BIN)/python bench/servers.py

wheel: setup
	$(BIN)/python -m build --no-isolation --wheel

clean:
	rm -rf $(VENV) $(STATIC) $(FRONT)/node_modules .demo dist .mypy_cache .ruff_cache .hypothesis
