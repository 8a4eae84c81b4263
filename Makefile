# What each needs is made first; what is made already is not made again.
PY := .venv/bin/python
STAMPS := .stamps
PY_SOURCES := $(shell find src/cuejar -name '*.py')
WEB_SOURCES := $(shell find web/src -type f 2>/dev/null) web/index.html web/overlay.html web/audience.html web/gear.html web/pads.html $(shell find web/public -type f) web/vite.config.ts web/guide.ts $(shell find docs/guide docs/reference -name '*.md')

CORE_SOURCES := $(shell find src/cuejar/core -name '*.py')

# What is compiled once needn't be at every start.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: setup demo test dev bench soak fuzz mutants shots check format clean types dist app portable wheels licences words coverage

setup: $(STAMPS)/python $(STAMPS)/compiled $(STAMPS)/web

# uv installs in seconds what takes pip a minute; where there is none, or it fails, pip does it.
EVERYTHING := '.[dev,bridges,app,voice]'

define install
$(PY) -m uv pip install --quiet --compile-bytecode --python $(PY) -c constraints.txt $(1) 2> /dev/null || \
	$(PY) -m pip install --quiet --disable-pip-version-check -c constraints.txt $(1)
endef

# What Cue Jar itself needs to run.
$(STAMPS)/run: pyproject.toml constraints.txt
	@mkdir -p $(STAMPS)
	test -x $(PY) || python3 -m venv .venv
	@$(PY) -m uv --version > /dev/null 2>&1 || $(PY) -m pip install --quiet --disable-pip-version-check -c constraints.txt uv || true
	$(call install,-e '.[voice]')
	@touch $@

$(STAMPS)/python: $(STAMPS)/run
	$(call install,-e $(EVERYTHING))
	# Alone: what the first needs for other keyboards must be compiled, and is not used here; the second asks for an older typer, and
	# works with ours.
	$(call install,--no-deps pynput openapi-python-client)
	@touch $@

# Where there is no C compiler the engine stays as it stands, which does the same.
$(STAMPS)/compiled: $(STAMPS)/python $(CORE_SOURCES) scripts/compiled.py
	$(PY) -m scripts.compiled
	@touch $@

$(STAMPS)/npm: web/package.json web/package-lock.json web/.npmrc
	@mkdir -p $(STAMPS)
	cd web && npm ci --no-fund --no-audit --loglevel=error
	@touch $@

$(STAMPS)/openapi: $(STAMPS)/python $(STAMPS)/npm $(PY_SOURCES)
	$(PY) -m cuejar.api.schema $(STAMPS)/openapi.json web/src/api/kinds.ts docs/reference/formats docs/reference/wires
	cd web && npx openapi-typescript ../$(STAMPS)/openapi.json -o ../$(STAMPS)/schema.d.ts > /dev/null
	cmp -s $(STAMPS)/schema.d.ts web/src/api/schema.d.ts || cp $(STAMPS)/schema.d.ts web/src/api/schema.d.ts
	@touch $@

types: $(STAMPS)/openapi

$(STAMPS)/web: $(STAMPS)/openapi $(STAMPS)/pages
	cd web && npx vue-tsc --noEmit -p tsconfig.json
	@touch $@

# The pages from what stands in the checkout, without looking at types.
$(STAMPS)/pages: $(STAMPS)/npm $(WEB_SOURCES)
	cd web && npx vite build --logLevel warn
	@touch $@

$(STAMPS)/browser:
	@mkdir -p $(STAMPS)
	command -v chromium > /dev/null && command -v chromedriver > /dev/null && command -v Xvfb > /dev/null && command -v mosquitto_passwd > /dev/null && command -v faketime > /dev/null || \
		(apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium chromium-driver xvfb mosquitto faketime)
	@touch $@

# The demo needs no tools of developers, no types and no compiler.
demo:
	@$(MAKE) -s -j3 $(STAMPS)/run $(STAMPS)/pages
	.venv/bin/cuejar demo --yesterday

# What can be made at the same time is.
test:
	$(MAKE) -j3 setup $(STAMPS)/browser check $(STAMPS)/package-needs
	$(PY) -m scripts.compiled --check
	cd web && npx vitest run --coverage --reporter=dot
	$(MAKE) coverage
	$(PY) -m pytest -n 4 --dist worksteal --ignore tests/package --ignore tests/core -rR
	$(PY) -m pytest tests/package
	$(PY) -m tests.soak --minutes 2 --first 1

check: $(STAMPS)/openapi
	.venv/bin/ruff check src tests bridges scripts
	.venv/bin/ruff format --check src tests bridges scripts
	.venv/bin/mypy
	.venv/bin/mypy -p cuejar -p bridges --platform win32 --cache-dir .mypy_cache/win32
	.venv/bin/mypy -p cuejar -p bridges --platform darwin --cache-dir .mypy_cache/darwin
	.venv/bin/lint-imports
	! .venv/bin/vulture | grep -v "unused variable"
	cd web && npx eslint src --max-warnings 0 && npx prettier --check --log-level warn src
	$(PY) -m scripts.licences --check
	cd web && npx depcruise src --config .dependency-cruiser.mjs --output-type err && npx knip

format: setup
	.venv/bin/ruff check --fix src tests
	.venv/bin/ruff format src tests bridges
	cd web && npx prettier --write --log-level warn src

dev: setup
	@trap 'kill 0' EXIT INT TERM; .venv/bin/cuejar demo --yesterday & cd web && npx vite

bench: setup $(STAMPS)/browser
	$(PY) -m tests.bench

# Storms over the real processes for MIN minutes; before them, what is drawn in tests, much more of it.
MIN ?= 10
soak: setup
	EXAMPLES=$$((100 * $(MIN))) $(PY) -m pytest -n 2 -m hypothesis tests/core
	$(PY) -m tests.soak --minutes $(MIN)

# Odd requests and messages to everything that listens, with other ones each time (FUZZ_SEED=N for the same).
fuzz: setup
	FUZZ=200 FUZZ_SEED=$${FUZZ_SEED:-$$(date +%s)} $(PY) -m pytest tests/fuzz -x

# A wheel and an sdist with the pages inside, which need neither Node nor this checkout.
dist: $(STAMPS)/dist
	@ls -l dist

# A program for the system that this runs on, and an archive of it, tried in an empty home.
app: setup
	$(PY) -m scripts.app
	$(PY) -m tests.packed

# Whether all that is needed comes ready built for Windows, macOS and Linux.
portable: $(STAMPS)/python
	$(PY) -m scripts.portable

# A wheel for this system and this Python, with the compiled engine, tried in an environment of its own.
wheels: $(STAMPS)/compiled $(STAMPS)/package-needs
	$(call install,-e '.[wheels]')
	rm -rf dist/wheels build
	CUEJAR_COMPILED=1 $(PY) -m build --wheel --no-isolation --outdir dist/wheels . > $(STAMPS)/wheels.log 2>&1 || (tail -20 $(STAMPS)/wheels.log; false)
	$(PY) -m scripts.wheels dist/wheels $(STAMPS)/package

$(STAMPS)/dist: $(STAMPS)/web LICENSE LICENCES.md MANIFEST.in README.md
	rm -rf dist build
	$(PY) -m build --no-isolation --outdir dist . > $(STAMPS)/dist.log 2>&1 || (tail -20 $(STAMPS)/dist.log; false)
	@touch $@

# An environment with what the wheel needs; the tests put the wheel into it, without any index.
$(STAMPS)/package-needs: $(STAMPS)/dist pyproject.toml constraints.txt
	test -x $(STAMPS)/package/bin/python || python3 -m venv $(STAMPS)/package
	$(PY) -m uv pip install --quiet --compile-bytecode --python $(STAMPS)/package/bin/python -c constraints.txt dist/*.whl 2> /dev/null || \
		$(STAMPS)/package/bin/python -m pip install --quiet --disable-pip-version-check -c constraints.txt dist/*.whl
	@touch $@

# Small wrongs put into the rules one by one: those that no test notices are named, to be looked at.
mutants: setup
	$(PY) -m pip install --quiet --disable-pip-version-check -c constraints.txt -e '.[mutants]'
	EXAMPLES=25 SHRINK=0 CUEJAR_INTERPRETED=1 .venv/bin/mutmut run
	.venv/bin/mutmut results

# The tests of the core, and which of its lines and branches they don't reach.
coverage: setup
	rm -f .coverage*
	CUEJAR_INTERPRETED=1 $(PY) -m coverage run -m pytest -n 2 --dist worksteal tests/core
	$(PY) -m coverage combine --quiet
	$(PY) -m coverage report

# Every text that a person can meet, with its file and line.
words: $(STAMPS)/python $(STAMPS)/npm
	@$(PY) -m scripts.words

shots: setup $(STAMPS)/browser
	$(PY) -m tests.shots

# What ships, and on what terms.
licences: setup
	$(PY) -m scripts.licences

clean:
	rm -rf $(STAMPS) dist build src/cuejar/web src/cuejar/compiled .mypy_cache .pytest_cache .ruff_cache
