# Everything a developer runs. CONTRIBUTING.md says more.

VERSION ?=
GO      ?= go
STATIC   = -trimpath -tags netgo,osusergo -ldflags '-s -w -linkmode external -extldflags "-static" $(if $(VERSION),-X thrush/internal/version.number=$(VERSION))'

.PHONY: build demo test attacks fuzz bench subjects subjects-all architecture dist loaded screenshots vet lint clean

# What is loaded into interpreters: no library, no headers, one for all their versions.
MACHINE = $(shell uname -m)
LOADED = internal/lang/python/runtime/built/counters-$(MACHINE).so internal/lang/script/runtime/built/counters-$(MACHINE).node

internal/lang/python/runtime/built/counters-$(MACHINE).so: internal/lang/python/runtime/counters.c
internal/lang/script/runtime/built/counters-$(MACHINE).node: internal/lang/script/runtime/counters.c
$(LOADED):
	$(or $(CC),cc) -x c -O2 -shared -fPIC -nostdlib -fvisibility=hidden -fno-stack-protector -Wall -Werror -Wl,--build-id=none -s -o $@ $<

## build: one static program, bin/thrush
build: $(LOADED)
	CGO_ENABLED=1 $(GO) build $(STATIC) -o bin/thrush ./cmd/thrush

## demo: build, then the whole job on the sample
demo: build
	bin/thrush demo

## test: everything that is quick enough to run often
test: vet build
	$(GO) test -count=1 -timeout 40m ./...

## attacks: what a stranger could put in front of Thrush, with every command (docs/security.md)
attacks:
	$(GO) test -count=1 -timeout 30m -tags attacks ./tests/attacks

## fuzz: all fuzz targets, two at a time, FUZZTIME each
FUZZTIME ?= 60s
fuzz:
	@grep -rHo '^func Fuzz[A-Za-z]*' --include='*_test.go' internal | sed 's#/[^/]*:func # #' | sort | xargs -P 2 -L 1 sh -c ' \
		out=$$($(GO) test -run "^$$" -fuzz "^$$1\$$" -fuzztime $(FUZZTIME) -fuzzminimizetime 10x -parallel 1 ./$$0 2>&1) || { echo "$$out"; exit 255; }; \
		echo "$$0 $$1: $$(echo "$$out" | grep -o "execs: [0-9]*" | tail -1)"'

## subjects: real third-party projects, with and without Thrush, and the witness
subjects: build
	$(GO) test -count=1 -timeout 20m -tags subjects -run Scaffolds ./tests
	$(GO) test -count=1 -timeout 75m -tags subjects -run Subject -v ./internal/witness

## subjects-all: what takes too long for every change: more projects, and random programs in all languages, an hour
subjects-all: build
	THRUSH_MORE=1 THRUSH_RANDOM_FOR=10m $(GO) test -count=1 -timeout 120m -tags subjects -run "SubjectRandom|More" -v ./internal/witness

## bench: the budgets, measured side by side; paste the table into docs/performance.md
bench: build
	$(GO) run ./internal/bench

## architecture: docs/architecture.svg from the imports of the code
architecture:
	$(GO) run ./docs/architecture

## dist: what users download, for amd64 and arm64 (needs gcc for both, and dpkg-deb); make dist VERSION=1.0
DEBIAN = gcc-x86-64-linux-gnu g++-x86-64-linux-gnu gcc-aarch64-linux-gnu g++-aarch64-linux-gnu
dist:
	@command -v aarch64-linux-gnu-g++ >/dev/null && command -v x86_64-linux-gnu-g++ >/dev/null || { echo "dist needs compilers for both kinds of machines: apt-get install $(DEBIAN)"; exit 1; }
	$(MAKE) loaded MACHINE=x86_64 CC=x86_64-linux-gnu-gcc
	$(MAKE) loaded MACHINE=aarch64 CC=aarch64-linux-gnu-gcc
	$(GO) run ./internal/dist -version "$(VERSION)"

loaded: $(LOADED)

## screenshots: docs/screenshots from the demo (needs Xvfb, xterm, ImageMagick and Chromium)
screenshots: build
	./docs/screenshots/make.sh

vet:
	@test -z "$$(gofmt -l cmd internal samples/*.go tests docs)" || { gofmt -l cmd internal samples/*.go tests docs; exit 1; }
	$(GO) vet ./...

## lint: what reads the code: formatting, vet, staticcheck, code that nothing uses, go.mod, races
# Node.head marks types as nodes; nothing calls it.
STATICCHECK = honnef.co/go/tools/cmd/staticcheck@v0.8.2
DEADCODE    = golang.org/x/tools/cmd/deadcode@v0.52.0
RACING      = ./internal/core/... ./internal/collector ./internal/merging ./internal/launch ./internal/lang/... ./internal/workcopy ./internal/report/term
lint: vet $(LOADED)
	$(GO) vet -tags subjects,attacks ./...
	$(GO) run $(STATICCHECK) ./...
	$(GO) run $(STATICCHECK) -tags subjects,attacks ./internal/witness/... ./tests/...
	@unused=$$($(GO) run $(DEADCODE) -test -tags subjects,attacks ./... | grep -v 'Stmt\.head$$'); test -z "$$unused" || { echo "$$unused"; exit 1; }
	$(GO) mod tidy -diff
	$(GO) test -race -count=1 $(RACING)

clean:
	rm -rf bin dist .subjects $(LOADED)
