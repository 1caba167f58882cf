# Everything the project does. `make demo` and `make test` install what is missing first.
SHELL := /bin/bash
.SHELLFLAGS := -eu -o pipefail -c
.DEFAULT_GOAL := help
export GOFLAGS := -buildvcs=false
BIN := bin/journeyman
ADDR ?= 127.0.0.1:8080

.PHONY: help
help: ## say what there is
	@grep -hE '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 18

.PHONY: tools
tools: ## install PostgreSQL, Chromium and the packages that are missing
	@scripts/tools
	@test ui/node_modules/.package-lock.json -nt ui/package-lock.json || (echo "Installing the front end's packages …" && cd ui && npm ci --no-fund --no-audit --loglevel=error)
	@test e2e/node_modules/.package-lock.json -nt e2e/package-lock.json || (echo "Installing the browser tests' packages …" && cd e2e && npm ci --no-fund --no-audit --loglevel=error)

UI_SOURCES := $(shell find ui/src ui/public ui/index.html ui/vite.config.ts ui/package-lock.json -type f 2>/dev/null)
GO_SOURCES := $(shell find cmd core internal -name '*.go' -o -name '*.sql' 2>/dev/null) go.mod go.sum

internal/web/dist/index.html: $(UI_SOURCES)
	@echo "Building the front end …"
	@rm -rf internal/web/dist/assets
	@cd ui && npx --no-install vite build --logLevel=warn
	@touch $@

$(BIN): $(GO_SOURCES) internal/web/dist/index.html
	@echo "Building the server …"
	@go build -o $@ ./cmd/journeyman

.PHONY: build
build: tools ## build the one binary, bin/journeyman
	@$(MAKE) --no-print-directory $(BIN)

.PHONY: demo
demo: build ## start everything with the demo data; ADDR=127.0.0.1:8081 for another address
	@exec $(BIN) demo --addr $(ADDR)

.PHONY: demo-reset
demo-reset: build ## the same, with fresh demo data
	@exec $(BIN) demo --addr $(ADDR) --reset

.PHONY: dev
dev: build ## the demo, with server and front end rebuilt whenever their code changes
	@scripts/dev $(ADDR)

.PHONY: test
test: build lint go-test ui-test e2e-test ## linters, Go tests, tests of the front end, build, browser tests
	@echo "All tests passed."

.PHONY: go-test
go-test:
	@echo "Go tests …"
	@go test -race -count=1 -timeout 40m ./cmd/... ./internal/...
	@go test -count=1 -timeout 40m ./core/... # but for core/beside it starts nothing, which a test asserts
	@go test -race -count=1 -short -run 'Processors|Parts|Ahead|Fault' ./core/beside ./core/plan

.PHONY: ui-test
ui-test: tools
	@echo "Tests of the front end …"
	@cd ui && npx --no-install vitest run --silent --reporter=dot

.PHONY: e2e-test
e2e-test: $(BIN)
	@echo "Browser tests …"
	@cd e2e && npx --no-install playwright test

.PHONY: lint
lint: tools ## staticcheck, gofumpt, vet, eslint, prettier, tsc, and whether the API client is fresh
	@echo "Linters …"
	@go vet ./...
	@go tool -modfile=tools.mod staticcheck ./...
	@out=$$(go tool -modfile=tools.mod gofumpt -l cmd core internal); test -z "$$out" || (echo "gofumpt would change: $$out"; exit 1)
	@cd ui && npx --no-install tsc --noEmit && npx --no-install depcruise --output-type err src && npx --no-install eslint . && npx --no-install prettier --check --log-level warn .
	@cd e2e && npx --no-install tsc --noEmit
	@go run ./internal/store/posting/generate -check -dir internal/store/migrations
	@go run ./scripts/notices -check
	@go run ./scripts/messages -check
	@scripts/texts check
	@scripts/api-client check

.PHONY: client
client: ## make the TypeScript client anew from the API
	@scripts/api-client

.PHONY: messages
messages: ## collect what the server and the pages say, for the catalogues
	@go run ./scripts/messages
	@scripts/texts

.PHONY: notices
notices: tools ## collect the licences of all that ships
	@go run ./scripts/notices

.PHONY: format
format: ## bring all code into its form
	@go tool -modfile=tools.mod gofumpt -w cmd core internal
	@cd ui && npx --no-install prettier --write --log-level warn . ../e2e/*.ts

.PHONY: bench
bench: build ## measure: allocations against single-row updates, pages, imports
	@go test ./core/makeroom -run '^$$' -bench 300 -benchtime 200x
	@$(BIN) bench

.PHONY: bench-ui
bench-ui: build ## measure: keys and navigation on lists of 70,000 rows, from the trace of the browser, beside a bare table
	@$(BIN) bench --only screens

.PHONY: load
load: build ## coordinators and pickers at work at once, on one server and on two, for a minute each
	@$(BIN) bench --only load

.PHONY: attack
attack: tools ## attack a server of our own on loopback in every way we know, in full
	@go test ./internal/api -count=1 -timeout 60m -run 'TestAttack|TestADatabase' -full -v | grep -v '^=== '

.PHONY: fuzz
fuzz: tools ## look for input that breaks a reader, 30 s for each
	@go test ./core/book -run '^$$' -fuzz FuzzRead -fuzztime 30s
	@for f in FuzzRead FuzzReadPaste FuzzReadClosedDays; do go test ./internal/exchange -run '^$$' -fuzz "^$$f$$" -fuzztime 30s || exit 1; done
	@go test ./internal/api -run '^$$' -fuzz FuzzQueries -fuzztime 30s

.PHONY: mutants
mutants: tools ## make the bounds of the searches too strong, one by one, and expect the tests to notice
	@scripts/mutants

.PHONY: audit
audit: build ## add the demo's journal up again and compare it with every count
	@$(BIN) audit

.PHONY: screenshots
screenshots: build ## take the pictures of docs/screenshots from the demo data
	@cd e2e && npx --no-install playwright test --config=screenshots.config.ts
