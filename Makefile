# Two commands do everything: `make demo` and `make test`. Both install what they need first.
PYTHON ?= python3
BIN := .venv/bin
STAMPS := .stamps
PORT ?= 8321

.PHONY: demo test check-long install web clean

demo: install web
	$(BIN)/venzo demo --port $(PORT) --data demo-data

install: $(STAMPS)/python

$(STAMPS)/python: requirements.lock pyproject.toml
	@mkdir -p $(STAMPS)
	@test -x $(BIN)/python || $(PYTHON) -m venv .venv 2>/dev/null || (apt-get update -qq && apt-get install -y -qq python3-venv && $(PYTHON) -m venv .venv)
	@# one locked package has no wheel for every Python and is compiled
	@command -v c++ >/dev/null || (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq build-essential python3-dev >/dev/null)
	$(BIN)/python -m pip install -qq --disable-pip-version-check -r requirements.lock
	$(BIN)/python -m pip install -qq --disable-pip-version-check --no-deps -e .
	$(BIN)/venzo warm
	@touch $@

web: $(STAMPS)/web

$(STAMPS)/npm: web/package.json web/package-lock.json
	@mkdir -p $(STAMPS)
	# not `npm ci`: it refuses a lock without the native packages of other systems; this keeps to the lock and leaves it alone
	cd web && npm install --no-save --no-audit --no-fund --loglevel=error
	@touch $@

$(STAMPS)/web: $(STAMPS)/npm web/index.html web/vite.config.ts web/tsconfig.json $(wildcard web/src/*)
	cd web && npm run --silent build
	@touch $@

$(STAMPS)/chromium:
	@mkdir -p $(STAMPS)
	@test -x /usr/bin/chromium || (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium >/dev/null)
	@touch $@

test: install web $(STAMPS)/chromium
	$(BIN)/ruff check venzo tests bench
	$(BIN)/mypy
	cd web && npm run --silent typecheck
	@# the browser, and searches that are given wall time, have the machine to themselves
	$(BIN)/python -m pytest -m "not long" -n 2 --dist worksteal --ignore=tests/ui --deselect tests/reference/test_rectangles.py
	$(BIN)/python -m pytest -m "not long" tests/ui tests/reference/test_rectangles.py

check-long: install web $(STAMPS)/chromium
	$(BIN)/python -m bench.check_long docs/check-long.md

clean:
	rm -rf .venv .stamps web/node_modules venzo/web_dist build *.egg-info
