# Two commands do everything: make demo, make test.
LISTEN ?= 127.0.0.1:4280
GO     ?= go
FUZZ   ?= 5m
# Of the engine, what runs on several cores.
RACED  := Stand|Stops|Fault|EqualsReference|Chart|Distribution|Stopped
WEB    := $(shell find web/src web/public web/index.html web/*.ts web/package.json -type f 2>/dev/null)

.PHONY: help demo watch test race fuzz build lint openapi shots bench bench-ui bench-abuse bench-load bench-export clean

help: ## list the targets
	@grep -hE '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 12

demo: build .made/postgresql ## install, build, and serve the ferry company's demo
	./bin/gavrik demo --listen $(LISTEN)

watch: .made/postgresql web/node_modules/.made web/src/api/schema.ts web/dist/index.html ## serve the demo, and rebuild both halves as one edits
	$(GO) run ./tools/watch -listen $(LISTEN)

test: build lint .made/postgresql .made/chromium .made/readers ## install, build, and run every check and test
	npm --prefix web test
	$(GO) test -timeout 30m ./...
	$(GO) test -race -short ./internal/core/cache ./internal/core/fault ./internal/scheduler
	$(GO) test -race ./internal/core/engine -run '$(RACED)' -rapid.checks=20
	$(GO) test -run '^$$' -fuzz FuzzFormulas -fuzztime 10s ./internal/core/engine

race: ## run the core, the scheduler and the interface under the race detector
	$(GO) test -race -timeout 60m ./internal/core/... ./internal/scheduler ./internal/people ./internal/store ./test/api

fuzz: ## let the fuzzers look for new faults, FUZZ for each
	$(GO) test -run '^$$' -fuzz FuzzFormulas -fuzztime $(FUZZ) ./internal/core/engine
	$(GO) test -run '^$$' -fuzz FuzzCheck -fuzztime $(FUZZ) ./internal/core/program
	$(GO) test -run '^$$' -fuzz FuzzCheck -fuzztime $(FUZZ) ./internal/core/plan
	$(GO) test -run '^$$' -fuzz FuzzParse -fuzztime $(FUZZ) ./internal/core/view

build: bin/gavrik internal/export/fonts/sans.latin.ttf ## build the front end and the one binary

lint: web/node_modules/.made web/src/api/schema.ts ## go vet, staticcheck, gofmt, vue-tsc, eslint, prettier
	$(GO) vet ./...
	$(GO) tool staticcheck ./...
	@test -z "$$(gofmt -l cmd internal test tools web/*.go)" || { echo "not formatted:"; gofmt -l cmd internal test tools web/*.go; exit 1; }
	npm --prefix web run check

openapi: ## write the interface, the schema and the references from the code
	$(GO) run ./cmd/gavrik openapi > docs/openapi.json
	$(GO) run ./cmd/gavrik openapi --view-schema > docs/view.schema.json
	$(GO) run ./cmd/gavrik openapi --formulas > docs/formulas.md
	$(GO) run ./cmd/gavrik openapi --errors > docs/errors.md
	$(GO) run ./cmd/gavrik openapi --totals > docs/totals.md
	$(GO) run ./cmd/gavrik openapi --operators > web/src/api/operators.ts

shots: ## take the README's pictures from a demo that runs on LISTEN
	$(GO) run ./test/shots -base http://$(LISTEN)

bench: ## measure the core, on generated records and on the demo
	$(GO) test -run '^$$' -bench . -benchmem ./internal/core/... ./test/witness

bench-ui: build .made/postgresql .made/chromium ## measure the bench in a browser, on the demo and on a million imported bookings
	$(GO) run ./test/benchui

bench-abuse: build .made/postgresql ## measure what one person can do to a server, and to everybody else
	$(GO) run ./test/benchabuse

bench-load: build .made/postgresql ## measure 200 signed-in people on the demo, each changing a filter every 3 seconds
	$(GO) run ./test/benchload

bench-export: ## measure how a million records of ten columns leave in each format
	$(GO) run ./test/benchexport

clean: ## remove what was built
	rm -rf bin .made internal/export/fonts/*.ttf web/dist/assets web/dist/index.html web/node_modules web/src/api/schema.ts

bin/gavrik: web/dist/index.html internal/export/fonts/sans.latin.ttf $(shell find cmd internal web -name '*.go' -o -name '*.sql' -o -path '*/demo/views/*.json' | grep -v node_modules) go.mod
	@command -v $(GO) >/dev/null || { echo "Go is not installed; install Go 1.26 or later"; exit 1; }
	$(GO) build -o $@ ./cmd/gavrik

web/dist/index.html: web/node_modules/.made web/src/api/schema.ts $(WEB)
	npm --prefix web run build

# The fonts of what goes on paper.
internal/export/fonts/sans.latin.ttf: web/fonts.mjs web/node_modules/.made
	cd web && node fonts.mjs ../internal/export/fonts

web/src/api/schema.ts: docs/openapi.json web/node_modules/.made
	npm --prefix web run types

web/node_modules/.made: web/package-lock.json
	@command -v npm >/dev/null || { echo "npm is not installed; install Node.js 20 or later"; exit 1; }
	@# Not "npm ci": it refuses a lock file without the binaries of other platforms.
	npm --prefix web install --no-save --no-fund --no-audit
	touch $@

# Debian's packages, installed only where they are missing.
.made/postgresql:
	@ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || command -v initdb >/dev/null || sh tools/install postgresql
	@mkdir -p .made && touch $@

# Foreign readers of what is taken away: a spreadsheet program, and one for paper.
.made/readers:
	@command -v ssconvert >/dev/null || sh tools/install gnumeric
	@command -v pdftotext >/dev/null || sh tools/install poppler-utils
	@mkdir -p .made && touch $@

.made/chromium:
	@command -v chromium >/dev/null || sh tools/install chromium
	@mkdir -p .made && touch $@
