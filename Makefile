# Two commands do everything: `make demo` and `make test`. Both install what they need first.
PYTHON ?= python3
BIN := .venv/bin
STAMPS := .stamps
PORT ?= 8321
# every command is a process of its own: without compiled modules each would compile all of Venzo again
export PYTHONDONTWRITEBYTECODE =
export VENZO_TEST_SHOP = $(CURDIR)/$(STAMPS)/shop

.PHONY: demo test check-long install web clean types types-current lock

demo: install web
	$(BIN)/venzo demo --port $(PORT) --data demo-data

install: $(STAMPS)/python $(STAMPS)/warm

$(STAMPS)/python: requirements.lock pyproject.toml
	@mkdir -p $(STAMPS)
	@test -x $(BIN)/python || $(PYTHON) -m venv .venv 2>/dev/null || (apt-get update -qq && apt-get install -y -qq python3-venv && $(PYTHON) -m venv .venv)
	@# one locked package has no wheel for every Python and is compiled
	@command -v c++ >/dev/null || (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq build-essential python3-dev >/dev/null)
	$(BIN)/python -m pip install -qq --disable-pip-version-check -r requirements.lock
	$(BIN)/python -m pip install -qq --disable-pip-version-check --no-deps -e .
	$(BIN)/python -m compileall -q venzo
	@touch $@

# hot kernels are compiled into their cache, so that the first nest starts at once
$(STAMPS)/warm: $(STAMPS)/python
	$(BIN)/venzo warm
	@touch $@

web: $(STAMPS)/web

$(STAMPS)/npm: web/package.json web/package-lock.json
	@mkdir -p $(STAMPS)
	# not `npm ci`: it refuses a lock without the native packages of other systems; this keeps to the lock and leaves it alone
	cd web && npm install --no-save --no-audit --no-fund --loglevel=error
	@touch $@

$(STAMPS)/web: $(STAMPS)/npm web/index.html web/vite.config.ts web/tsconfig.json $(shell find web/src -type f)
	cd web && npm run --silent build
	@touch $@

$(STAMPS)/python-test: $(STAMPS)/python requirements-test.lock
	$(BIN)/python -m pip install -qq --disable-pip-version-check -r requirements-test.lock
	@touch $@

# both locks are made from pyproject.toml by a resolver, with the hash of every file, never by hand; versions
# already locked stay where they can
lock: $(STAMPS)/python-test
	$(BIN)/python -m pip install -qq --disable-pip-version-check uv
	$(BIN)/uv pip compile pyproject.toml -c requirements-test.lock --no-emit-index-url --no-header --no-annotate --generate-hashes -q -o $(STAMPS)/run.lock
	$(BIN)/uv pip compile pyproject.toml --extra test -c requirements-test.lock --no-emit-index-url --no-header --no-annotate --generate-hashes -q -o $(STAMPS)/test.lock
	mv $(STAMPS)/run.lock requirements.lock && mv $(STAMPS)/test.lock requirements-test.lock

# after Python, which may ask the system's package manager too: it serves one at a time
$(STAMPS)/chromium: $(STAMPS)/python
	@mkdir -p $(STAMPS)
	@test -x /usr/bin/chromium || (apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium >/dev/null)
	@touch $@

# what needs nothing of one another is done side by side: what waits for the network beside what computes, and
# the tests of Python, those without the demo shop first, beside its making
test:
	@mkdir -p $(STAMPS) && rm -rf $(VENZO_TEST_SHOP) && touch $(VENZO_TEST_SHOP).making
	@$(MAKE) --no-print-directory -j4 test-python test-shop sound-python sound-types web $(STAMPS)/chromium
	@# the browser's tests keep to their files; searches that are given wall time have the machine to themselves
	$(BIN)/python -m pytest -m "not long" tests/ui -n 2 --dist loadfile
	$(BIN)/python -m pytest -m "not long" tests/reference/test_rectangles.py

test-python: $(STAMPS)/warm $(STAMPS)/python-test
	$(BIN)/python -W ignore -m slipcover --out $(STAMPS)/branches.json -m pytest -m "not long" -n 2 --dist worksteal --ignore=tests/ui --deselect tests/reference/test_rectangles.py
	$(BIN)/python -m tests.support.branches $(STAMPS)/branches.json

# the demo shop that tests copy, made once for all of them; who needs it waits while it is being made
test-shop: $(STAMPS)/warm
	@rm -rf $(VENZO_TEST_SHOP) && touch $(VENZO_TEST_SHOP).making
	@trap 'rm -f $(VENZO_TEST_SHOP).making' EXIT; $(BIN)/python -W ignore -m tests.support.shop $(VENZO_TEST_SHOP)

.PHONY: sound-python sound-types test-python test-shop
sound-python: $(STAMPS)/python-test
	$(BIN)/ruff format --check venzo tests benchmarks
	$(BIN)/ruff check venzo tests benchmarks
	$(BIN)/mypy

sound-types: types-current $(STAMPS)/python-test
	$(BIN)/lint-imports
	@# the screen's reckoning is held against cases made by the core
	$(BIN)/python -W ignore -m tests.support.for_screen $(STAMPS)/for_screen.json
	cd web && npm run --silent sound

# the screen's types are made from what the server answers
types: install $(STAMPS)/npm
	$(BIN)/python -m venzo.api.schema > $(STAMPS)/openapi.json
	cd web && npx openapi-typescript ../$(STAMPS)/openapi.json -o src/api/schema.ts

types-current: $(STAMPS)/python $(STAMPS)/npm
	@$(BIN)/python -m venzo.api.schema > $(STAMPS)/openapi.json
	@cd web && npx openapi-typescript ../$(STAMPS)/openapi.json -o ../$(STAMPS)/schema.ts >/dev/null 2>&1
	@diff -q $(STAMPS)/schema.ts web/src/api/schema.ts || (echo "web/src/api/schema.ts is not what the server answers: run make types" && exit 1)

check-long: $(STAMPS)/warm $(STAMPS)/python-test web $(STAMPS)/chromium test-shop
	$(BIN)/python -m pytest -m long tests -n 2 --dist loadfile
	$(BIN)/python -m benchmarks.check_long docs/check-long.md

clean:
	rm -rf .venv .stamps web/node_modules venzo/web_dist build *.egg-info
