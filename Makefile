# Two commands matter: `make demo` and `make test`. Everything else is for those who build.
PYTHON ?= python3.11
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.installed
# Libraries that Qt needs, without and with a monitor, and a virtual screen for one smoke test.
LIBRARIES := libglib2.0-0 libegl1 libgl1 libdbus-1-3 libfontconfig1 libxkbcommon0 \
  libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxkbcommon-x11-0 xvfb

.PHONY: demo test prove bench lint types tests system screenshots schema clean lock

demo: $(STAMP)
	$(BIN)/anakinema open --demo tray-shuttle

# Lint and types share the two cores; the tests take both.
test: $(STAMP)
	@$(MAKE) --no-print-directory -j2 -O lint types
	@$(MAKE) --no-print-directory tests

lint: $(STAMP)
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/lint-imports

types: $(STAMP)
	$(BIN)/mypy src/anakinema

tests: $(STAMP)
	QT_QPA_PLATFORM=offscreen $(BIN)/pytest -n 2 -q

# All of every campaign that `make test` runs a fixed share of, in parts of at most 20 minutes:
# `make prove` runs those not yet proved for this code, `make prove PART=touches` one of them.
prove: $(STAMP)
	$(BIN)/python tools/prove.py $(PART)

bench: $(STAMP)
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m bench

screenshots: $(STAMP)
	QT_QPA_PLATFORM=offscreen $(BIN)/python tools/make_screenshots.py

schema: $(STAMP)
	$(BIN)/python tools/make_schema.py

$(STAMP): pyproject.toml requirements.lock Makefile
	@$(MAKE) --no-print-directory system
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install -q --disable-pip-version-check -r requirements.lock
	$(BIN)/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

system:
	@missing=""; for p in $(LIBRARIES); do \
	  dpkg-query -W -f='$${Status}' $$p 2>/dev/null | grep -q "install ok installed" || missing="$$missing $$p"; done; \
	if [ -n "$$missing" ]; then \
	  if [ "$$(id -u)" = 0 ]; then apt-get update -qq && apt-get install -y -qq --no-install-recommends $$missing; \
	  else echo "Please install these Debian packages first:$$missing"; exit 1; fi; fi
	@$(PYTHON) -c "import venv, ensurepip" 2>/dev/null || { \
	  if [ "$$(id -u)" = 0 ]; then apt-get update -qq && apt-get install -y -qq --no-install-recommends python3-venv python3.11-venv; \
	  else echo "Please install python3.11-venv first."; exit 1; fi; }

# Only for those who change dependencies.
lock:
	$(BIN)/pip-compile -q --strip-extras --extra test --no-header --no-annotate --no-emit-index-url \
	  --no-emit-trusted-host --no-emit-find-links --no-emit-options --allow-unsafe \
	  -o requirements.lock pyproject.toml

clean:
	rm -rf $(VENV) build .pytest_cache .mypy_cache .ruff_cache .hypothesis
