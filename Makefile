# Two commands do everything: `make demo` and `make test`. See README.md.
PYTHON ?= python3.11
PY = .venv/bin/python
export DJANGO_SETTINGS_MODULE = config.settings
export PYTHONPATH = src
# Byte code is kept: tests, workers and the demo start quicker the second time.
unexport PYTHONDONTWRITEBYTECODE
PORT ?= 8000
BENCH_ARGS ?=
WORKERS ?= 2
ARGS ?=

.PHONY: demo test current checks bench coverage limits passages search verdict sizes facts hands foreign structure fit holdout linkages practice drills studio fix static screenshots weigh clean

demo: .venv/app.stamp
	$(PY) tools/demo.py --port $(PORT)

test: checks
	$(PY) -m pytest --numprocesses=$(WORKERS) --dist=worksteal $(ARGS)

# What is committed is what the sources give: tables of the docs, what models earned, styles where Node is.
current: .venv/app.stamp
	$(PY) tools/coverage_table.py --check
	$(PY) tools/limits_table.py --check
	$(PY) tools/sizes_table.py --check
	$(PY) tools/passages_table.py --check
	$(PY) tools/hands_table.py --check
	$(PY) tools/facts_table.py --check
	$(PY) tools/search_table.py --check
	$(PY) tools/linkages.py --check
	$(PY) tools/verdict_table.py --check
	$(PY) tools/holdout.py --check > /dev/null
	@if [ -d node_modules ]; then npm run --silent check; fi

checks: .venv/test.stamp
	@tools/need_chromium.sh
	.venv/bin/ruff format --check .
	.venv/bin/ruff check .
	.venv/bin/djlint --check --quiet src/templates
	.venv/bin/mypy
	$(PY) tools/docstrings.py
	.venv/bin/lint-imports --no-cache
	$(PY) tools/structure.py --check
	$(PY) -m django makemigrations --check --dry-run
	FAIR_REACH_MODE=deploy FAIR_REACH_HOSTS=fair-reach.invalid FAIR_REACH_SECRET_KEY=$$($(PY) -c "import secrets; print(secrets.token_urlsafe(50))") \
	  $(PY) -m django check --deploy --fail-level WARNING

bench: .venv/test.stamp
	$(PY) tools/benchmark.py $(BENCH_ARGS)
	$(PY) tools/bench_pages.py

# docs/coverage.md from the data of the catalogue.
coverage: .venv/app.stamp
	$(PY) tools/coverage_table.py

# docs/limits.md from the code that holds them.
limits: .venv/app.stamp
	$(PY) tools/limits_table.py

# The sizes in docs/route.md from the code that holds them.
sizes: .venv/app.stamp
	$(PY) tools/sizes_table.py

# docs/search.md: taught fingerings that nobody has, and whether the search finds them.
search: .venv/app.stamp
	$(PY) tools/search_table.py

# docs/verdict.md: right and misprinted rows of charts, and what is said of each.
verdict: .venv/app.stamp
	$(PY) tools/verdict_table.py

# docs/passages.md from eighty short lines.
passages: .venv/app.stamp
	$(PY) tools/passages_table.py

# docs/double-reeds.md: sixty facts against the charts.
facts: .venv/app.stamp
	$(PY) tools/facts_table.py

hands: .venv/app.stamp
	$(PY) tools/hands_table.py

# docs/foreign_scores.md: what is read of scores that other libraries write; they are fetched for the run.
foreign: .venv/app.stamp
	$(PY) tools/foreign_scores.py

# The drawing of the structure in docs/architecture.md, from the imports.
structure: .venv/test.stamp
	$(PY) tools/structure.py

# The dimensions of every instrument from its standard fingerings; some minutes.
fit: .venv/app.stamp
	$(PY) tools/fit.py $(ARGS)

# What the fitted models say of fingerings that the fit never saw; with ARGS=--write, docs/holdout.md too.
holdout: .venv/app.stamp
	$(PY) tools/holdout.py $(ARGS)

# docs/linkages.md: what the models say of variants of linkages.
linkages: .venv/app.stamp
	$(PY) tools/linkages.py

# Formats and mends what can be mended without a person.
fix: .venv/test.stamp
	.venv/bin/ruff format .
	.venv/bin/djlint --reformat --quiet src/templates || true
	.venv/bin/ruff check --fix .

# Needs Node; only after changing styles, or the versions in package.json.
static:
	npm ci --no-audit --no-fund
	npm run --silent build

screenshots: .venv/test.stamp
	@tools/need_chromium.sh
	$(PY) tools/screenshots.py

# docs/practice.md: what is said of practice, held against simulated students; some minutes.
practice: .venv/app.stamp
	$(PY) tools/practice_proof.py

# docs/drills.md: every kind of drill with its first line; half a minute.
drills: .venv/app.stamp
	$(PY) tools/drills_catalogue.py

studio: .venv/test.stamp
	$(PY) tools/weigh_studio.py

# Bytes and requests of the pages, and what a key press costs.
weigh: .venv/test.stamp
	@tools/need_chromium.sh
	$(PY) tools/weigh.py

.venv/app.stamp: requirements/app.txt
	test -x $(PY) || $(PYTHON) -m venv .venv || python3 -m venv .venv
	$(PY) -m pip install --quiet --disable-pip-version-check --compile --require-hashes -r requirements/app.txt
	touch $@

.venv/test.stamp: .venv/app.stamp requirements/test.txt
	$(PY) -m pip install --quiet --disable-pip-version-check --compile --require-hashes -r requirements/test.txt
	touch $@

clean:
	rm -rf .venv .pytest_cache .mypy_cache .ruff_cache .hypothesis
