# Two commands: `make demo` shows Kame, `make test` proves it. Both do all set-up themselves on Debian with Rust and Node.
SHELL := /bin/bash
.DEFAULT_GOAL := help
.PHONY: help demo test web browser lint check-api api pictures bench clean

help:
	@echo "make demo      build everything and serve the demo job on http://127.0.0.1:4600 (KAME_ADDR, KAME_DATA)"
	@echo "make test      install what the tests need and run all of them"
	@echo "make pictures  refresh docs/screenshots"
	@echo "make bench     run the benchmarks"

demo: web
	cargo build --release --locked -p kame-server
	exec ./target/release/kame demo

test: web browser lint check-api
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

# The published descriptions and the TypeScript types are what the handlers say.
check-api: web
	@cargo run -q --locked -p kame-server -- schema api | diff -q - docs/openapi.json || (echo "docs/openapi.json is stale: see CONTRIBUTING.md"; exit 1)
	@cargo run -q --locked -p kame-server -- schema job | diff -q - docs/kame-job.schema.json || (echo "docs/kame-job.schema.json is stale"; exit 1)
	@cargo run -q --locked -p kame-server -- schema layup | diff -q - docs/kame-layup.schema.json || (echo "docs/kame-layup.schema.json is stale"; exit 1)

api:
	cargo run -q -p kame-server -- schema api > docs/openapi.json
	cargo run -q -p kame-server -- schema job > docs/kame-job.schema.json
	cargo run -q -p kame-server -- schema layup > docs/kame-layup.schema.json
	cd web && npm run --silent api && npx prettier --write src/api/schema.gen.ts

pictures: web browser
	cargo run -q -p kame-e2e --bin pictures -- docs/screenshots

bench:
	cargo bench -p kame-core

clean:
	cargo clean
	rm -rf web/dist web/node_modules
