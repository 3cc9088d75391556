# Two commands: `make demo` shows Kame, `make test` proves it. Both do all set-up themselves on Debian with Rust and Node.
SHELL := /bin/bash
.DEFAULT_GOAL := help
# Built once and thrown away, nothing is kept for a next build.
ifdef CI
export CARGO_INCREMENTAL := 0
endif
.PHONY: help demo test web browser lint api pictures bench hammer importers laws kills drills soak clean

help:
	@echo "make demo      build everything and serve the demo job on http://127.0.0.1:4600 (KAME_ADDR, KAME_DATA)"
	@echo "make test      install what the tests need and run all of them"
	@echo "make pictures  refresh docs/screenshots"
	@echo "make bench     run the benchmarks"
	@echo "make laws      the laws with other random cases, KAME_ROUNDS times"
	@echo "make kills     kill the server KAME_KILLS times while the wall is written down"
	@echo "make drills    play 10 000 scenes of practice (KAME_SEEDS of each level)"
	@echo "make soak      twenty people and two hundred readers on one job for an hour (KAME_MINUTES)"
	@echo "make hammer    a long run of random input (KAME_CASES says how much)"
	@echo "make importers ten million damaged files, models, tables and layups"

# Wherever cargo is told to build, it knows where the program is.
demo: web
	cargo build --release --locked
	cargo run --release --locked -p kame-server -- demo

# One build of everything serves all tests; the browser's part waits for nothing else. Laws ask the same random cases each time, so that what is
# red was changed; `make laws` asks others.
test: export PROPTEST_RNG_SEED ?= 20261129
test: web browser lint
	cd web && npm run --silent test
	cargo test --workspace --locked

# Front-end packages and build; npm's own stamp says whether the packages are those of the lock file.
web: web/node_modules/.package-lock.json
	cd web && npm run --silent build

web/node_modules/.package-lock.json: web/package-lock.json
	cd web && npm ci --no-audit --no-fund
	touch $@

browser:
	@if ! command -v chromium >/dev/null || ! command -v chromedriver >/dev/null; then \
		apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium chromium-driver; fi

lint: web
	cd web && npm run --silent lint
	cargo fmt --all --check
	cargo clippy --workspace --all-targets --locked -- -D warnings

api:
	cargo run -q -p kame-server -- schema api > docs/openapi.json
	cargo run -q -p kame-server -- schema job > docs/kame-job.schema.json
	cargo run -q -p kame-server -- schema layup > docs/kame-layup.schema.json
	cargo run -q -p kame-server -- schema record > docs/kame-record.schema.json
	cargo run -q -p kame-server -- schema limits > web/src/api/limits.gen.json
	cd web && npm run --silent api && npx prettier --write src/api/schema.gen.ts

pictures: web browser
	@command -v pdftoppm >/dev/null || { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq poppler-utils; }
	cargo run -q -p kame-e2e --bin pictures -- docs/screenshots

bench:
	cargo bench -p kame-core
	cargo bench -p kame-server --bench load
	cargo bench -p kame-server --bench crowd

# Random walls, figures, edits, files, layups and requests, KAME_CASES of them, and every operation as its description lets it be asked, with memory bounded to 4 GB: the long run of what every test run
# takes a sample of.
hammer: web
	cargo test --workspace --locked --test server --no-run
	ulimit -v 4000000; KAME_CASES=$${KAME_CASES:-1000000} KAME_SLOWEST=1 cargo test --workspace --locked --test server -- hammer described --nocapture

# The importers alone, ten million inputs with random damage side by side: 5 million job and kit files, 4.6 million layups, 300 000 tables and
# 100 000 building models, which take the longest to read. KAME_CASES of each is a thousand for 315 inputs.
importers: web
	cargo test --workspace --locked --test server --no-run
	ulimit -v 4000000; export KAME_SLOWEST=1; \
		hammer() { KAME_CASES=$$2 cargo test --workspace --locked --test server -- --nocapture $$1 & all="$$all $$!"; }; \
		hammer every_file_is_read 15873016; hammer every_layup_is_answered 14603175; hammer every_table_is_read 952381; hammer every_model_is_read 317461; \
		for one in $$all; do wait $$one || failed=yes; done; test -z "$$failed"

# Whether memory stays flat.
soak: web
	KAME_MINUTES=$${KAME_MINUTES:-60} cargo bench -p kame-server --bench crowd

# What every test run takes a sample of.
kills: web
	KAME_KILLS=$${KAME_KILLS:-100} cargo test --workspace --locked --test server acknowledged_is_lost -- --nocapture

# What every test run takes a sample of.
drills: web
	KAME_SEEDS=$${KAME_SEEDS:-400} cargo test --workspace --locked --test practice a_perfect -- --nocapture

# Every round asks new cases, and says the seed with which `PROPTEST_RNG_SEED=… make test` asks them again.
laws: web
	cargo test --workspace --locked --no-run
	for round in $$(seq $${KAME_ROUNDS:-10}); do \
		export PROPTEST_RNG_SEED=$$RANDOM$$RANDOM; echo "seed $$PROPTEST_RNG_SEED"; \
		cargo test --workspace --locked --lib --test walls --test truck --test water --test practice --test formats --test store --test server || exit 1; done

clean:
	cargo clean
	rm -rf web/dist web/node_modules
