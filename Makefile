# Two commands are enough: `make demo` and `make test`. Each installs what it needs, or says what to
# install where it may not.
SHELL := /bin/bash
.PHONY: demo test build core web lint lint-go lint-web test-go test-web screenshots api clean

GO_TOOL := go tool -modfile=tools/go.mod

demo:
	@scripts/need go node mariadb
	@$(MAKE) --no-print-directory build
	./bin/geminate demo

# Hot reload of the page, server and core built anew as their sources change.
.PHONY: dev engines
dev:
	@scripts/dev

# The smoke test in Firefox and WebKit.
engines: build
	@scripts/engines

build: web
	@scripts/need go
	go build -o bin/geminate ./cmd/geminate

# The core for the browser: the same Go, compiled to WebAssembly, with the loader of the same Go.
CORE := web/src/core/core.wasm
core: $(CORE)
$(CORE): $(shell find brake ground desk cmd/core words -name '*.go' -not -name '*_test.go' 2>/dev/null) go.mod
	@scripts/need go
	GOOS=js GOARCH=wasm go build -trimpath -ldflags="-s -w" -o $@ ./cmd/core
	cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" web/src/core/wasm_exec.js

# The front end is rebuilt when any of its sources or the words are newer than the last build.
web: web/dist/index.html
web/dist/index.html: $(shell find web/src web/public words -type f 2>/dev/null) web/index.html web/package.json web/vite.config.ts web/node_modules/.made $(CORE)
	rm -rf web/dist/assets web/dist/sw.js web/dist/workbox-*.js
	cd web && npx vite build --logLevel warn
	@touch $@

web/node_modules/.made: web/package-lock.json
	@scripts/need node
	cd web && npm ci --no-fund --no-audit --loglevel error
	@touch $@

# The API's description and the front end's types, made anew from the Go code.
api: web/node_modules/.made
	go run ./cmd/ids
	go run ./cmd/geminate openapi > server/openapi.json
	cd web && npm run -s api

# The licence texts of everything that is linked and bundled; a test holds the list against it.
.PHONY: licences
licences: web/node_modules/.made
	go run ./cmd/licences internal/licences/texts.gz

# Pages and schemas made by the program itself; tests hold them against it.
.PHONY: docs
docs:
	go run ./cmd/geminate schema > docs/system.schema.json
	go run ./cmd/geminate schema --units > docs/units.schema.json
	go run ./cmd/geminate pattern --page > docs/patterns.md

# The proving ground: 5 000 vehicles by each of four technicians and what each ask is worth, within an hour on two cores.
.PHONY: prove
prove:
	go run ./cmd/geminate prove --jobs 5000 --asks 150 --page docs/proving.md

# A Debian package, and the test that installs it into a clean root and takes it out again.
.PHONY: package package-test cluster-test
package:
	scripts/package

package-test: build
	GEMINATE_PACKAGE=1 go test ./e2e -run TestThePackage -count=1 -timeout 15m

# Three nodes, three servers, a node and a server killed (needs Debian's galera-4; scripts/cluster says what else).
cluster-test: build
	GEMINATE_CLUSTER=2m go test ./e2e -run TestAClusterLosesNothing -count=1 -v -timeout 15m

# The trial of the diagnosis: about a quarter of an hour on two cores.
.PHONY: trial
trial:
	go run ./cmd/geminate trial --page docs/trial.md

test: tools-for-tests lint test-web test-go

.PHONY: tools-for-tests
tools-for-tests:
	@scripts/need go node mariadb chromium units poppler fonts

lint: lint-go lint-web

# Go is written in lines of up to 140 columns (comments 120): what can be put on several is.
LINES := $(GO_TOOL) golines -m 140 -t 4 --ignore-generated
.PHONY: fmt
fmt:
	$(LINES) -w $$(git ls-files '*.go')
	cd web && npx prettier --write --log-level warn .

lint-go:
	@bad=$$(gofmt -l $$(git ls-files '*.go')); if [ -n "$$bad" ]; then echo "gofmt: $$bad"; exit 1; fi
	@long=$$($(LINES) -l $$(git ls-files '*.go')); if [ -n "$$long" ]; then echo "lines of more than 140 columns that make fmt shortens: $$long"; exit 1; fi
	go vet ./...
	$(GO_TOOL) staticcheck ./...
	@dead=$$($(GO_TOOL) deadcode -test ./...); if [ -n "$$dead" ]; then echo "nobody calls: $$dead"; exit 1; fi

lint-web: web/node_modules/.made $(CORE)
	cd web && npx vue-tsc --noEmit && npx eslint . --max-warnings 0 && npx prettier --check --log-level warn . && npx openapi-typescript ../server/openapi.json -o src/api/schema.d.ts --check && npx knip --no-progress

test-web: web/node_modules/.made $(CORE)
	cd web && npx vitest run

# The browser has the machine to itself: what computes beside it makes it slow, and what is slow looks broken.
TEST_SUM := $(GO_TOOL) gotestsum --format pkgname-and-test-fails --format-hide-empty-pkg
test-go: web
	@rm -f bin/test*.json; bad=0; \
	$(TEST_SUM) --jsonfile bin/test.json -- -timeout 25m $$(go list ./... | grep -v /e2e) || bad=1; \
	$(TEST_SUM) --jsonfile bin/test-e2e.json -- -timeout 25m ./e2e || bad=1; \
	exit $$bad

# Pictures of the main views, made by the browser test from demo data.
screenshots: web
	GEMINATE_SHOTS=$(CURDIR)/bin/shots go test ./e2e -count=1 -run 'TestWholeJob|TestTablet|TestTwinIs|TestCatalogue|TestKeyboard'

# What the core's tests notice: it is broken on purpose, one small thing at a time. Takes some ten minutes.
.PHONY: mutants
mutants:
	go run ./cmd/mutants

clean:
	rm -rf bin web/dist/assets web/dist/*.js web/dist/*.webmanifest web/dist/index.html web/dist/mark.svg web/node_modules $(CORE) web/src/core/wasm_exec.js
