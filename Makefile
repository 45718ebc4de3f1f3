# Two commands do all set-up on a fresh machine: make demo, make test.
.PHONY: help setup demo test attack test-deep coverage mutations lint bench measure words screenshots demo-logbook demo-recording \
	install uninstall package release man clean

PYTHON = .venv/bin/python

help:
	@echo "make demo         set up, and open the demo review"
	@echo "make test         set up, and run every test"
	@echo "make install      put it among your programs (PREFIX=~/.local): menu entry, icons, man page"
	@echo "make uninstall    take it away again; logbooks stay"
	@echo "make package      a wheel, a source archive and a .deb in dist/, each started once"
	@echo "make attack       the fuzzers at length: logs, bad files, logbooks, kills, commands (1 h)"
	@echo "make test-deep    every test, with all its seeds"
	@echo "make coverage     every test, and which lines of core they run: 95 in 100 branches (20 min)"
	@echo "make mutations    break core in one place at a time: does a test notice? (2 h)"
	@echo "make release      every check in order, then the files to publish, with their sums"
	@echo "make lint         style, types and the rule that imports run downwards"
	@echo "make bench        print the bars of speed"
	@echo "make measure      bench and truth, and docs/measured.md with the last five (30 min)"
	@echo "make words        print every sentence of the program, for a person to read"
	@echo "make screenshots  renew the pictures in docs/screenshots"
	@echo "make demo-logbook play every run of the demo again (2 min)"
	@echo "make demo-recording film the recording of the demo again"

setup:
	@./tools/setup.sh

build/demo.blunt: src/blunt_ruler/demo/demo.blunt
	@rm -f build/demo.blunt build/demo.blunt-wal build/demo.blunt-shm
	@mkdir -p build
	@.venv/bin/blunt-ruler demo --out $@ >/dev/null

demo: setup
	@$(MAKE) -s --no-print-directory build/demo.blunt
	@./tools/demo.sh

# What fails is run again with all values told: to have them told of every test takes a tenth more.
test: setup
	$(PYTHON) -m pytest --assert=plain || { $(PYTHON) -m pytest -n 0 --lf --lfnf=none; exit 1; }

# Another ATTACK_SEED gives other files.
attack: setup
	TEST_DEEP=1 ATTACK_SEED=$${ATTACK_SEED:-500000} ATTACK_LOGS=10000 ATTACK_INPUTS=10000 ATTACK_CALLS=1500 \
	ATTACK_EDITS=500 ATTACK_KILLS=200 ATTACK_FLIPS=1500 ATTACK_MEMORY_EDITS=300 ATTACK_ACTIONS=1000 ATTACK_FUZZ=5000 ATTACK_TABLES=10000 \
	$(PYTHON) -m pytest tests/attack tests/ui/test_memory.py -s --durations=10

test-deep: setup
	TEST_DEEP=1 $(PYTHON) -m pytest --durations=10

# What runs each line of core; make mutations asks it. Not in the suite: it takes twice as long.
coverage: setup
	mkdir -p build
	COVERAGE_FILE=build/coverage $(PYTHON) -m pytest --assert=plain \
		--cov=blunt_ruler.core --cov-branch --cov-context=test --cov-report=term:skip-covered

build/coverage: $(shell find src/blunt_ruler/core -name '*.py')
	@$(MAKE) coverage

mutations: setup build/coverage
	$(PYTHON) tools/mutate.py
	$(PYTHON) tools/mutate.py --drawn $${MUTATIONS:-200} --seed $${MUTATION_SEED:-1}

lint: setup
	$(PYTHON) -m ruff check .
	$(PYTHON) -m ruff format --check .
	$(PYTHON) -m mypy
	.venv/bin/lint-imports

bench: setup
	QT_QPA_PLATFORM=offscreen $(PYTHON) tools/bench.py

# The page it writes, docs/measured.md, is committed.
measure: setup
	QT_QPA_PLATFORM=offscreen $(PYTHON) tools/measure.py

words: setup
	$(PYTHON) tools/words.py

screenshots: setup
	$(PYTHON) tools/screenshots.py

install:
	@./tools/install.sh

uninstall:
	@./tools/install.sh remove

package: setup
	@./tools/package.sh

release: setup
	@./tools/release.sh

man: setup
	$(PYTHON) tools/man.py

demo-recording: setup
	.venv/bin/blunt-ruler simulate --out build/film --seed 5 --rig "Built-in iG-6" --case "Tidewrack / 1440p / High" \
	--seconds 12 --recording --picture 960x540@30 --kbit 560
	cp build/film/*.mp4 src/blunt_ruler/demo/tidewrack.mp4

demo-logbook: setup
	rm -f src/blunt_ruler/demo/demo.blunt
	.venv/bin/blunt-ruler demo --rebuild --out src/blunt_ruler/demo/demo.blunt

clean:
	rm -rf .venv build
