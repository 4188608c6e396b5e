# Two commands do everything on a fresh machine: `make demo` and `make test`.
BIN := .venv/bin
SRC := src tests benchmarks scripts

.PHONY: setup demo test check bench screenshots lint schema character clean

setup:
	@sh scripts/setup.sh

demo: setup
	$(BIN)/wraithon demo

test: setup lint
	@sh scripts/test.sh

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
	$(BIN)/python -m wraithon.project.schema docs/project.schema.json

# Makes the demo character, its textures and its project again, byte for byte.
character: setup
	$(BIN)/python -m scripts.demo_maker.make

clean:
	rm -rf .venv build dist
	find src tests -name __pycache__ -prune -exec rm -rf {} +
