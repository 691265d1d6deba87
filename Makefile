# Kavlo: everything one needs to build, run and test it.
# Wants Go, Node with npm, make and, for what the tests need, apt.

GO       ?= go
BIN      := build/kavlo
VERSION  := $(shell git describe --tags --always --dirty 2>/dev/null || echo dev)
GOFLAGS  := -tags nomsgpack
LDFLAGS  := -s -w -X example.org/kavlo/internal/cli.Version=$(VERSION)
LINT     := $(GO) tool -modfile=tools.mod golangci-lint

# Without C everywhere, so that what is built once serves the program, its tests and lint.
export CGO_ENABLED = 0

.DEFAULT_GOAL := help

.PHONY: help
help: ## Say what there is to make
	@awk -F ':.*## ' '/^[a-z-]+:.*## / { printf "  make %-12s %s\n", $$1, $$2 }' $(MAKEFILE_LIST)

.PHONY: demo
demo: build ## Run the service with the demo's data; its folder is demo-data
	$(BIN) demo --data demo-data

.PHONY: build
build: console ## Build the program with its console, as build/kavlo
	$(GO) build $(GOFLAGS) -ldflags '$(LDFLAGS)' -o $(BIN) ./cmd/kavlo

CONSOLE_SOURCES := $(shell find console/src console/public -type f 2>/dev/null) console/index.html console/vite.config.ts console/package-lock.json

.PHONY: console
console: console/dist/index.html ## Build the console

console/node_modules/.package-lock.json: console/package-lock.json
	cd console && npm ci --no-audit --no-fund
	@touch $@

console/dist/index.html: console/node_modules/.package-lock.json $(CONSOLE_SOURCES)
	cd console && npm run --silent build
	@touch $@

.PHONY: deps
deps: ## Install what the tests need from Debian's packages: Chromium, a CalDAV server, PostgreSQL
	@sh scripts/install-chromium
	@sh scripts/install-servers

.PHONY: test
test: build deps ## Run every test: the core, the service, the command line, the console
	cd console && npm test --silent
	$(GO) test $(GOFLAGS) -timeout 30m ./...
	$(GO) test ./internal/rule ./internal/sheet ./internal/reading -run 'Random' -rapid.checks=10000
	$(GO) test ./internal/workspace -run 'Random' -rapid.checks=2000
	sh scripts/fuzz 30s clause

.PHONY: test-hands
test-hands: build deps ## Set every control of the console by the mouse and by the keyboard, in a browser
	KAVLO_HANDS=both $(GO) test $(GOFLAGS) -timeout 30m ./e2e

.PHONY: lint
lint: lint-texts lint-console lint-go ## Look for mistakes and untidiness

.PHONY: lint-go
lint-go: console
	@test -z "$$(gofmt -l cmd console demo e2e internal bench)" || { echo "not formatted:"; gofmt -l cmd console demo e2e internal bench; exit 1; }
	$(GO) vet $(GOFLAGS) ./...
	$(LINT) run

.PHONY: lint-texts
lint-texts: console
	@mkdir -p build && cp console/src/texts/en.po build/texts.po && cd console && npm run --silent texts >/dev/null && cmp -s src/texts/en.po ../build/texts.po || { echo "texts have changed: the catalogue console/src/texts/en.po was gathered anew, commit it"; exit 1; }

.PHONY: lint-console
lint-console: console
	cd console && npm run --silent lint && npx --no-install tsc --noEmit && npx --no-install spectral lint ../docs/openapi.json --ruleset ../.spectral.yaml --fail-severity warn

.PHONY: fuzz
fuzz: ## Run each fuzz target for two minutes
	sh scripts/fuzz 2m

.PHONY: bench
bench: ## Measure against floors and write the table into README.md
	$(GO) run ./bench/table

.PHONY: bench-console
bench-console: build ## Measure the console in headless Chromium and write bench/console.md
	$(GO) run -tags nomsgpack ./bench/console

.PHONY: openapi
openapi: ## Write docs/openapi.json and the console's types anew
	$(GO) test ./internal/api -run TestOpenAPIDocument -update
	cd console && npm run --silent types

.PHONY: reference
reference: ## Write the reference pages of clauses and commands, and the picture of the packages, anew
	$(GO) test ./internal/clause ./internal/cli -run Reference -update
	$(GO) test ./internal -run Picture -update

.PHONY: screenshots
screenshots: build deps ## Take the pictures of docs/screenshots anew
	$(GO) run $(GOFLAGS) ./e2e/shots

.PHONY: clean
clean: ## Remove what was built
	rm -rf build console/dist/assets console/dist/index.html console/dist/mark.svg
