# Saldatura. `make demo` and `make test` do everything on a fresh Debian with python3 >= 3.11, Node >= 20 and make.

PY := .venv/bin/python
PIP := $(PY) -m pip install --quiet --disable-pip-version-check
PORT ?= 8750
STATIC := src/saldatura/static/index.html
WEB_SOURCES := $(shell find web/src web/index.html web/vite.config.ts web/public -type f 2>/dev/null)
CLIENT := web/src/api/schema.d.ts
# Tests write what is thrown away: into memory, where there is room for it.
MEMORY := $(shell [ "$$(df -k --output=avail /dev/shm 2>/dev/null | tail -1)" -gt 2000000 ] 2>/dev/null && echo TMPDIR=/dev/shm)

.PHONY: setup demo serve test search bench attack screenshots format client lint lint-python lint-web ready test-web check-client

setup: .venv/.dev web/node_modules/.done

demo: .venv/.run $(STATIC)
	.venv/bin/saldatura demo --port $(PORT)

serve: .venv/.run $(STATIC)
	.venv/bin/saldatura serve --port $(PORT)

test: setup $(STATIC) check-client
	sh tools/ensure-chromium.sh
	$(MAKE) --no-print-directory -j2 -Otarget lint-python ready lint-web test-web
	# Three at once fill two cores, for a program that is waited for takes none; who is done takes from the others. Programs are started
	# a hundred times: what is compiled is kept, whatever this machine does otherwise.
	$(MEMORY) PYTHONDONTWRITEBYTECODE= $(PY) -m pytest -n 3 --dist worksteal

# What the tests search with a few examples, the same at each run, with ten times as many and each time others.
search: setup
	$(MEMORY) SALDATURA_SEARCH=10 PYTHONDONTWRITEBYTECODE= $(PY) -m pytest -n 2 --dist worksteal tests/battery tests/job tests/records tests/shop

lint: setup check-client
	$(MAKE) --no-print-directory -j2 -Otarget lint-python lint-web

lint-python: setup
	.venv/bin/ruff check src tests bench tools attack
	.venv/bin/ruff format --check src tests bench tools attack
	.venv/bin/mypy

lint-web: setup
	cd web && npm run --silent lint
	cd web && npm run --silent types

# What every hand of the tests would make for itself: the demo they look at, and what is compiled on the way to it.
ready: setup
	$(MEMORY) PYTHONDONTWRITEBYTECODE= $(PY) -m tests.ready

test-web: setup
	cd web && npm run --silent test

# PARTS="prove crowd" for those alone.
bench: setup $(STATIC)
	sh tools/ensure-chromium.sh
	$(PY) -m bench $(PARTS)

# Some two hours; SHARE=0.1 for a tenth of it.
attack: setup $(STATIC)
	$(PY) -m attack $(SHARE)

screenshots: setup $(STATIC)
	sh tools/ensure-chromium.sh
	$(PY) tools/screenshots.py

format: setup
	.venv/bin/ruff check --fix src tests bench tools attack
	.venv/bin/ruff format src tests bench tools attack
	cd web && npm run --silent lint -- --fix

# The typed client: written from the API, committed, and checked to be current by `make test`.
client: setup
	.venv/bin/saldatura openapi > .cache-openapi.json
	cd web && npx openapi-typescript ../.cache-openapi.json -o src/api/schema.d.ts
	rm -f .cache-openapi.json

check-client: setup
	.venv/bin/saldatura openapi > .cache-openapi.json
	cd web && npx --no-install openapi-typescript ../.cache-openapi.json -o ../.cache-schema.d.ts > /dev/null
	cmp -s .cache-schema.d.ts $(CLIENT) || { rm -f .cache-*; echo "$(CLIENT) is out of date: run 'make client'"; exit 1; }
	rm -f .cache-openapi.json .cache-schema.d.ts

.venv/bin/python:
	python3 -m venv .venv || { echo "python3 -m venv failed; on Debian: apt-get install python3-venv"; exit 1; }
	# What Python brings along is as old as itself.
	$(PIP) --upgrade pip setuptools

.venv/.run: requirements.lock pyproject.toml | .venv/bin/python
	$(PIP) -r requirements.lock
	$(PIP) --no-deps --no-build-isolation -e .
	# What is compiled is compiled now, not at the first press.
	$(PY) -c "from saldatura.serving import warm_up; warm_up()"
	touch $@

.venv/.dev: requirements-dev.lock pyproject.toml | .venv/bin/python
	$(PIP) -r requirements-dev.lock
	$(PIP) --no-deps --no-build-isolation -e .
	$(PY) -c "from saldatura.serving import warm_up; warm_up()"
	touch $@ .venv/.run

web/node_modules/.done: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	touch $@

$(STATIC): web/node_modules/.done $(WEB_SOURCES)
	cd web && npm run --silent build
