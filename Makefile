# Air Trim. `make demo` builds it and starts it with demo data; `make test` checks all of it.

SHELL := /bin/bash
# Tests are compiled once, not anew in each of the processes that run them.
export PYTHONDONTWRITEBYTECODE :=
BIN := .venv/bin
APT := apt-get install -y -qq --no-install-recommends
WEB := $(shell find web/src web/index.html web/vite.config.ts -type f 2>/dev/null)

# What is installed and built does not wait for each other.
MAKEFLAGS += --jobs=3

.PHONY: setup demo test wheel bench bench-recording bench-sound bench-speech bench-trust bench-cluster checks client demo-data screenshots clean

setup: .make/python $(if $(AIRTRIM_CAREFUL),.make/careful) src/airtrim/web_dist/index.html

.make/python: pyproject.toml
	@echo "== Setting up Python in .venv"
	@command -v python3.11 >/dev/null || { echo "Air Trim needs Python 3.11."; exit 1; }
	@test -x $(BIN)/python || python3.11 -m venv .venv
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[dev]'
	@mkdir -p .make && touch $@

# The careful recogniser; tests need it.
.make/careful: .make/python
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[dev,careful]'
	@mkdir -p .make && touch $@

.make/node: web/package.json web/package-lock.json
	@echo "== Installing the interface's packages"
	@command -v npm >/dev/null || { echo "Air Trim needs Node.js 20.19 or newer, with npm."; exit 1; }
	@cd web && npm ci --no-audit --no-fund --loglevel=error
	@mkdir -p .make && touch $@

src/airtrim/web_dist/index.html: .make/node $(WEB)
	@echo "== Building the interface"
	@cd web && npm run --silent build -- --logLevel warn
	@touch $@

demo: setup
	@echo "== Laying out the demo episode and starting Air Trim"
	@$(BIN)/airtrim demo

test: setup .make/careful .make/chromium .make/sshd checks wheel
	@echo "== Tests of the interface's logic"
	@cd web && npm run --silent test -- --silent
	@echo "== Tests"
	@# What is compiled on first use is compiled once, not in every process that runs tests.
	@$(BIN)/python -m airtrim.core.render.warm
	@# Several share the cores: a computation that takes more than one takes it from the others.
	@OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/pytest -n 3 --dist worksteal --durations=8 -rfERs -m "not real_time"
	@$(BIN)/pytest -rfERs -m real_time tests/web

# All that is needed to install Air Trim without Node: the built interface and the demo are in it.
WHEEL_FROM := $(shell find src -name '*.py' -o -name '*.mako' -o -name '*.flac' -o -name '*.html' -o -name '*.npz') pyproject.toml README.md

wheel: .make/wheel

.make/wheel: src/airtrim/web_dist/index.html .make/python $(WHEEL_FROM) demo/episode.json
	@echo "== Building the wheel"
	@rm -rf build src/airtrim/demo_data dist
	@mkdir -p src/airtrim/demo_data
	@cp -r demo/episode.json demo/cover.png demo/sound demo/words src/airtrim/demo_data/
	@$(BIN)/pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist . ; \
	  built=$$?; rm -rf build src/airtrim/demo_data; exit $$built
	@touch $@

.make/chromium:
	@command -v chromium >/dev/null || { \
	  echo "== Installing Debian's Chromium for the browser tests"; \
	  apt-get update -qq && $(APT) chromium >/dev/null; }
	@mkdir -p .make && touch $@

# One after the other: Debian's installer does not run twice at once.
.make/sshd: | .make/chromium
	@test -x /usr/sbin/sshd || { \
	  echo "== Installing Debian's OpenSSH server for the tests of SFTP"; \
	  apt-get update -qq && $(APT) openssh-server >/dev/null; }
	@mkdir -p .make && touch $@

checks: setup
	@echo "== Checks: ruff, mypy, import contracts, tsc, biome"
	@$(BIN)/ruff check --quiet src tests bench demo training
	@$(BIN)/ruff format --quiet --check src tests bench demo training
	@$(BIN)/mypy
	@$(BIN)/lint-imports --no-cache > .make/imports.log || { cat .make/imports.log; exit 1; }
	@cd web && npm run --silent types && npm run --silent lint

bench: setup .make/chromium
	@command -v ffmpeg >/dev/null || { apt-get update -qq && $(APT) ffmpeg >/dev/null; }
	@command -v flite >/dev/null || { apt-get update -qq && $(APT) flite >/dev/null; }
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[dev,demo]'
	@$(BIN)/python -m bench

bench-speech: setup
	@command -v flite >/dev/null || { apt-get update -qq && $(APT) flite >/dev/null; }
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[dev,demo]'
	@$(BIN)/python -m bench.speech
	@$(BIN)/python -m bench.fillers
	@$(BIN)/python -m bench.speech memory
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[dev,demo,bench,careful]'
	@$(BIN)/python -m bench.voices
	@$(BIN)/python -m bench.recognisers

bench-sound: setup .make/chromium
	@command -v flite >/dev/null && command -v ffmpeg >/dev/null || { apt-get update -qq && $(APT) flite ffmpeg >/dev/null; }
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[dev,demo,bench]'
	@$(BIN)/python -m bench.sound
	@$(BIN)/python -m bench.echo

bench-trust: setup
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[dev,bench]'
	@$(BIN)/python -m bench.trust

bench-recording: setup .make/chromium
	@$(BIN)/python -m bench.recording

bench-cluster: setup
	@$(BIN)/python -m bench.cluster

client: setup
	@$(BIN)/airtrim openapi > web/openapi.json
	@cd web && npm run --silent client

demo-data: setup
	@command -v flite >/dev/null || { apt-get update -qq && $(APT) flite >/dev/null; }
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[demo]'
	@$(BIN)/python demo/make_demo.py

screenshots: setup .make/chromium
	@$(BIN)/python -m demo.screenshots

clean:
	rm -rf .venv .make .demo build dist web/node_modules src/airtrim/web_dist src/airtrim/demo_data
