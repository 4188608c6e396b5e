# Two commands do everything on a fresh machine: `make demo` and `make test`.
BIN := .venv/bin
SRC := src tests benchmarks scripts
PYTEST := QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest -p no:cacheprovider -n auto --maxprocesses 4 --dist loadfile
QUICK := $(addprefix tests/,test_layout.py test_words.py test_files.py test_emission.py test_forces.py test_masters.py \
	test_triggers.py test_responses.py test_player.py test_picture.py desktop/test_whole_way.py desktop/test_colours.py)

.PHONY: setup demo test quick check bench screenshots lint schema character clean

setup:
	@sh scripts/setup.sh

demo: setup
	$(BIN)/wraithon demo

test: setup lint
	$(PYTEST)

# A minute's look at a bit of everything, while something is being changed.
quick:
	$(PYTEST) $(QUICK)

lint: setup
	$(BIN)/ruff check $(SRC)
	$(BIN)/ruff format --check $(SRC)
	$(BIN)/mypy
	$(BIN)/lint-imports --no-cache

bench: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m pytest benchmarks --benchmark-columns=min,median,stddev,rounds -W ignore::DeprecationWarning

screenshots: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python scripts/screenshots.py

schema: setup
	$(BIN)/python -m wraithon.project.schema docs
	cp docs/guide.md src/wraithon/guide.md

# Makes the demo character, its textures and its project again, byte for byte.
character: setup
	$(BIN)/python -m scripts.demo_maker.make

clean:
	rm -rf .venv build dist
	find src tests -name __pycache__ -prune -exec rm -rf {} +
