# The two that matter: make demo, make test. Everything else is optional.
.DEFAULT_GOAL := help
SHELL := /bin/bash
PORT ?= 8080
DATA ?= demo-data
TOOLS := bin/tools
VERSION := $(shell git describe --tags --always --dirty 2>/dev/null || echo unknown)

NEEDED := $(shell ls /usr/lib/postgresql/*/bin/postgres >/dev/null 2>&1 || echo postgresql) \
	$(shell pkg-config --exists vips 2>/dev/null || echo libvips-dev pkg-config gcc) \
	$(shell command -v vipsthumbnail >/dev/null || echo libvips-tools) \
	$(shell pkg-config --exists zxing zbar 2>/dev/null || echo libzxing-dev libzbar-dev g++) \
	$(shell command -v chromium >/dev/null || echo chromium)

# What checks are compared with; without it those tests are skipped.
READERS := $(shell command -v unzip >/dev/null || echo unzip) $(shell command -v bsdtar >/dev/null || echo libarchive-tools) $(shell command -v dwebp >/dev/null || echo webp) \
    $(shell command -v djpeg >/dev/null || echo libjpeg-turbo-progs)
TRUTHS := $(shell command -v convert-im6.q16 >/dev/null || echo imagemagick) $(shell command -v exiftool >/dev/null || echo libimage-exiftool-perl) \
	$(shell dpkg -s icc-profiles-free >/dev/null 2>&1 || echo icc-profiles-free)
# Codes drawn and read by others.
CODES := $(shell command -v zint >/dev/null || echo zint) $(shell command -v zbarimg >/dev/null || echo zbar-tools) $(shell command -v dmtxread >/dev/null || echo dmtx-utils)
# Photographs and drawings on which nobody knows what is enlarged.
WALLPAPERS := $(shell dpkg -s mate-backgrounds >/dev/null 2>&1 || echo mate-backgrounds) $(shell dpkg -s plasma-workspace-wallpapers >/dev/null 2>&1 || echo plasma-workspace-wallpapers)

# Servers that nobody here wrote, for the tests of drives; without them those tests are skipped.
OTHERS := $(shell command -v rclone >/dev/null || echo rclone) $(shell /usr/bin/python3 -c 'import pyftpdlib' 2>/dev/null || echo python3-pyftpdlib) $(shell command -v litmus >/dev/null || echo litmus) \
	$(shell command -v cadaver >/dev/null || echo cadaver) $(shell command -v smbd >/dev/null || echo samba)

.PHONY: help demo demo-reset build test lint prove bench screenshots release generate system clean

help: ## Say what there is
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 14

demo: build ## Start with the demo world; PORT=8080
	@./bin/ambrosa demo --data $(DATA) --port $(PORT)

demo-reset: build ## Start the demo world over
	@./bin/ambrosa reset --yes --data $(DATA)
	@./bin/ambrosa demo --data $(DATA) --port $(PORT)

build: system bin/ambrosa ## Build bin/ambrosa with the interface inside

test: build ## Run every test; the README's test command
	@$(MAKE) --no-print-directory system NEEDED="$(OTHERS) $(TRUTHS) $(READERS) $(CODES)"
	@ulimit -c 0; go test -count=1 -timeout 25m ./... ./e2e/...

lint: system web/node_modules web/src/api/schema.d.ts $(TOOLS)/sqlc ## Check style and types
	@test -z "$$(gofmt -l cmd core internal e2e web/*.go)" || { gofmt -l cmd core internal e2e; exit 1; }
	@go vet ./... ./e2e/...
	@mkdir -p $(TOOLS) && cd tools && GOWORK=off CGO_ENABLED=0 go build -o ../$(TOOLS)/ honnef.co/go/tools/cmd/staticcheck
	@$(TOOLS)/staticcheck ./... ./e2e/...
	@$(TOOLS)/sqlc diff
	@cd web && npm run --silent check && npm run --silent lint

# How many kills, and how long each fuzz target runs.
KILLS ?= 100
FUZZTIME ?= 60s
RACED := ./internal/ledger ./internal/pair ./internal/gather ./internal/api ./internal/store ./internal/assets ./internal/cluster ./internal/people ./internal/catalogue ./internal/jobs ./internal/sources ./internal/drop ./internal/pages ./internal/tidy ./internal/publish ./internal/tell ./internal/photo ./internal/symbols

prove: build ## The long proofs: kills at points chosen by chance, fuzzing, the race detector
	@AMBROSA_KILLS=$(KILLS) go test -count=1 -run '^TestKill$$' -v -timeout 60m ./e2e | grep -v '^=== '
	@AMBROSA_PROVE=1 go test -count=1 -run "^(TestStates|TestMessagesArrive)$$" -timeout 30m ./e2e
	@$(MAKE) --no-print-directory system NEEDED="$(TRUTHS) $(WALLPAPERS) $(CODES)"
	@AMBROSA_PROVE=1 go test -count=1 -run "^TestScenes$$" -v -timeout 30m ./internal/symbols | grep -v '^=== '
	@AMBROSA_PROVE=1 go test -count=1 -run "^TestChecksTruth$$" -v -timeout 30m ./internal/assets | grep -v '^=== '
	@go test -race -count=1 -timeout 30m $(RACED)
	@for package in $$(go list ./core/... ./internal/...); do \
		for target in $$(go test -list '^Fuzz' $$package | grep '^Fuzz'); do \
			echo "$$package $$target"; \
			go test -run '^$$' -fuzz "^$$target\$$" -fuzztime $(FUZZTIME) -fuzzminimizetime 200x $$package | tail -3 || exit 1; \
		done; \
	done

bench: build ## Measure what the README promises; against psql, vips, rclone, zip and ripgrep
	@command -v rg >/dev/null || $(MAKE) --no-print-directory system NEEDED=ripgrep
	@command -v mawk >/dev/null || $(MAKE) --no-print-directory system NEEDED=mawk
	@$(MAKE) --no-print-directory system NEEDED="$(WALLPAPERS) $(CODES)"
	@command -v zip >/dev/null || $(MAKE) --no-print-directory system NEEDED=zip
	@go test -run "^$$" -bench . -benchtime 1x -timeout 60m ./core/... ./internal/ledger ./internal/wording ./internal/hand ./internal/assets ./internal/store ./internal/tables ./internal/tablefiles ./internal/publish ./internal/symbols ./e2e

screenshots: build ## Draw docs/screenshots anew from the demo world
	@AMBROSA_SCREENSHOTS=$(CURDIR)/docs/screenshots go test -count=1 -run TestScreenshots -v -timeout 10m ./e2e/

release: build ## Pack the program for another machine: bin/ambrosa-VERSION-linux-ARCH.tar.gz
	@rm -f bin/ambrosa && $(MAKE) --no-print-directory bin/ambrosa
	@name=ambrosa-$(VERSION)-linux-$$(go env GOARCH); \
	tar --create --gzip --file bin/$$name.tar.gz --owner=0 --group=0 --transform "s,^,$$name/," bin/ambrosa packaging Dockerfile README.md docs/architecture.md docs/measured.md; \
	echo bin/$$name.tar.gz

generate: $(TOOLS)/sqlc ## Make the queries' Go code anew from internal/store/queries
	@$(TOOLS)/sqlc generate

$(TOOLS)/sqlc: tools/go.mod tools/go.sum
	@mkdir -p $(TOOLS) && cd tools && GOWORK=off CGO_ENABLED=0 go build -o ../$(TOOLS)/ github.com/sqlc-dev/sqlc/cmd/sqlc
	@touch $@

clean: ## Remove what was built
	@rm -rf bin web/node_modules web/dist/* web/openapi.json web/src/api/schema.d.ts

# What is missing from Debian is installed where this is root; elsewhere it is named.
system:
	@if [ -n "$(strip $(NEEDED))" ]; then \
		if [ "$$(id -u)" != 0 ]; then echo "Install from Debian: $(strip $(NEEDED))" >&2; exit 1; fi; \
		apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $(NEEDED) >/dev/null; \
	fi

GO_FILES = $(shell find cmd core internal -name '*.go' -o -name '*.sql' | grep -v _test.go) go.mod go.sum web/embed.go

# Not npm ci: it refuses where a registry lacks an optional package of another platform. The lock counts all the same.
web/node_modules: web/package.json web/package-lock.json
	@cd web && npm install --no-save --no-audit --no-fund --silent
	@touch $@

# The interface's types come from the server's own description, so the two can't drift apart.
web/openapi.json: $(GO_FILES)
	@mkdir -p bin web/dist && touch web/dist/.gitkeep
	@go run ./cmd/ambrosa openapi > $@.new && mv $@.new $@

web/src/api/schema.d.ts: web/openapi.json web/node_modules
	@cd web && npm run --silent generate > /dev/null && touch src/api/schema.d.ts

web/dist/index.html: web/src/api/schema.d.ts $(shell find web/src web/public web/*.html web/*.ts -type f 2>/dev/null | grep -v schema.d.ts)
	@cd web && npm run --silent check && npm run --silent build > /dev/null
	@touch web/dist/.gitkeep $@

# The licences of the Go modules that the program is made of.
web/dist/notices-go.txt: go.mod go.sum web/dist/index.html
	@go list -deps -f '{{with .Module}}{{if not .Main}}{{.Path}}|{{.Version}}|{{.Dir}}{{end}}{{end}}' ./cmd/ambrosa | sort -u | \
	while IFS='|' read -r path version dir; do \
		[ -n "$$dir" ] || continue; \
		echo "== $$path $$version"; find "$$dir" -maxdepth 1 -type f -iregex '.*/\(licen[cs]e\|copying\|notice\).*' -exec cat {} +; echo; \
	done > $@

bin/ambrosa: web/dist/index.html web/dist/notices-go.txt $(GO_FILES)
	@go build -ldflags "-X main.version=$(VERSION)" -o $@ ./cmd/ambrosa
