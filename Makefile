# Everything a contributor runs. `make demo` and `make test` install what is missing first.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMPS := .stamps
# Modules are compiled once, also where the machine says otherwise: a server starts in half the time.
export PYTHONDONTWRITEBYTECODE :=

.PHONY: demo demo-directory test test-all test-times check check-python check-web format bench fuzz shaken soak screenshots build setup wheel clean

demo: build ## start everything with the demo domain
	@exec $(BIN)/hornfels demo

demo-directory: build $(STAMPS)/directory ## the demo before a real directory server on loopback, everything live
	@exec $(BIN)/python scripts/demo_directory.py

PYTEST := $(BIN)/pytest -n logical --dist worksteal --junitxml test-results/tests.xml
test: build $(STAMPS)/browser $(STAMPS)/directory ## what a contributor runs: all but the tests marked thorough, and short properties
	cd web && npm run --silent test
	HORNFELS_FUZZ=1 $(PYTEST) -m "not thorough" --hypothesis-profile fast

test-all: build $(STAMPS)/browser $(STAMPS)/directory ## all tests
	cd web && npm run --silent test
	$(PYTEST)

test-times: ## where the time of the last test run went: by folder, and the slowest tests
	@$(BIN)/python scripts/test_times.py

check: check-python check-web ## style, types and import layers

check-python: build
	$(BIN)/ruff check src tests scripts benchmarks
	$(BIN)/ruff format --check src tests scripts benchmarks
	$(BIN)/mypy
	$(BIN)/lint-imports

check-web: build
	cd web && npm run --silent check

format: build ## bring everything into the one style
	$(BIN)/ruff check --fix --quiet src tests scripts benchmarks
	$(BIN)/ruff format --quiet src tests scripts benchmarks
	cd web && npm run --silent format

bench: build ## speed, as ratios in one run; PART=gate runs one part alone
	PYTHONPATH=tests $(BIN)/python -m benchmarks $(PART)

fuzz: build ## every operation of the API with what its description allows and what not, for some minutes
	HORNFELS_FUZZ=400 $(BIN)/pytest tests/api/test_description.py

shaken: build $(STAMPS)/browser $(STAMPS)/directory ## the browser's tests on a slow page, with answers that come late and out of their order
	HORNFELS_SHAKE=0.8 HORNFELS_SLOWER=4 $(BIN)/pytest -n 2 --dist worksteal -m browser --ignore tests/browser/test_frame.py

soak: build ## two hundred people for some minutes, with a load, a killed database and a restart in the middle
	PYTHONPATH=tests $(BIN)/python -m benchmarks.soak

screenshots: build $(STAMPS)/browser $(STAMPS)/directory ## the pictures in docs/screenshots
	$(BIN)/python scripts/screenshots.py

wheel: build ## one wheel with the front end inside, in dist/
	$(BIN)/python -m hatchling build -t wheel

setup: build $(STAMPS)/browser $(STAMPS)/directory

build: $(STAMPS)/python $(STAMPS)/postgresql $(STAMPS)/web

$(STAMPS)/python: requirements/dev.txt requirements/installer.txt pyproject.toml
	@scripts/install.sh python
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/postgresql:
	@scripts/install.sh postgresql
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/directory:
	@scripts/install.sh directory
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/browser:
	@scripts/install.sh browser
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/node: web/package-lock.json
	@scripts/install.sh node
	@mkdir -p $(STAMPS) && touch $@

# The front end's types come from the API's own description; they are not tracked.
web/src/api/schema.ts: $(STAMPS)/python $(STAMPS)/node scripts/api_schema.py $(shell find src/hornfels/api -name '*.py')
	@$(BIN)/python scripts/api_schema.py | (cd web && npx --no-install openapi-typescript) > $@.new
	@mv $@.new $@

$(STAMPS)/web: $(STAMPS)/node web/src/api/schema.ts $(shell find web/src web/public web/index.html web/vite.config.ts src/hornfels/formats/reports/looks.json -type f 2>/dev/null)
	cd web && npm run --silent build -- --logLevel warn
	@mkdir -p $(STAMPS) && touch $@

clean:
	rm -rf $(VENV) $(STAMPS) web/node_modules src/hornfels/api/static dist
