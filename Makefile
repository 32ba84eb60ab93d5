# Everything a person or CI does with Thermion. Targets install what they need into .venv.
PORT ?= 8000
PY := .venv/bin/python
BIN := .venv/bin

.PHONY: demo demo-fresh serve test bench truth lint lock assets assets-check html-check wheel-check chromium screenshots docs clean

.venv/ready: requirements.txt pyproject.toml
	python3 -m venv .venv
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-build-isolation --no-deps -e .
	touch $@

.venv/ready-dev: .venv/ready requirements-dev.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements-dev.txt
	touch $@

demo: .venv/ready
	@$(BIN)/thermion demo --port $(PORT)

demo-fresh: .venv/ready
	@$(BIN)/thermion demo --fresh --port $(PORT)

serve: .venv/ready
	@$(BIN)/thermion serve --port $(PORT) $(if $(DATA),--data "$(DATA)")

# The headless one takes a third less of the processor than the whole browser without a window.
chromium:
	@command -v chromium-headless-shell >/dev/null || command -v chromium >/dev/null || ( \
	  if [ "$$(id -u)" = 0 ]; then S=; else S=sudo; fi; \
	  $$S apt-get update -qq; for B in chromium-headless-shell chromium; do \
	    $$S apt-get install -y -qq --no-install-recommends $$B && break; done ) >/dev/null

test: export PYTHONDONTWRITEBYTECODE :=
test: .venv/ready-dev chromium
	$(BIN)/pytest -n $$($(PY) -c "import os; print((os.cpu_count() or 1) * 2 + 1)") --dist worksteal

bench: .venv/ready-dev
	$(PY) -m bench

# Classes simulated through what the pages call: is what they say true? Some minutes; writes docs/truth.md.
truth: .venv/ready-dev
	$(PY) -m bench.truth

lint: .venv/ready-dev
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/djlint --lint --check --quiet thermion/web

# The locks made anew from requirements*.in; what is pinned stays pinned unless it must change.
LOCK := uv pip compile --quiet --universal --python-version 3.11 --generate-hashes \
  --no-header --no-emit-index-url --no-strip-extras
lock:
	python3 -m venv .venv-lock && .venv-lock/bin/pip install --quiet uv
	.venv-lock/bin/$(LOCK) requirements.in -o requirements.txt
	.venv-lock/bin/$(LOCK) requirements-dev.in -o requirements-dev.txt
	rm -rf .venv-lock

node_modules/ready: package.json package-lock.json
	npm ci --silent --no-audit --no-fund
	touch $@

assets: node_modules/ready
	assets/build

# A stale stylesheet, font or script in the repository fails here.
assets-check: assets
	@git diff --exit-code --stat -- thermion/web/static || (echo "built assets are stale: run 'make assets' and commit"; exit 1)
	npx eslint thermion/web/static/js
	npx prettier --check --log-level warn "assets/**/*.css" "assets/*.mjs" eslint.config.mjs thermion/web/static/js

# Every page of the demo through the Nu HTML checker; needs Java, which only developers have.
html-check: .venv/ready-dev node_modules/ready
	@if command -v java >/dev/null; then $(PY) assets/check_html.py; else echo "no Java here: HTML not checked"; fi

# The wheel in an environment of its own, as a user without make gets it.
wheel-check:
	python3 .ci/check_wheel.py

docs: .venv/ready-dev
	$(PY) docs/make_methods.py
	$(PY) docs/make_access.py
	$(PY) docs/make_addresses.py

screenshots: .venv/ready-dev chromium
	$(PY) docs/take_screenshots.py

clean:
	rm -rf .venv node_modules
