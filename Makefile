# Jolly Drawer. The two commands that matter: make demo, make test.
SHELL := /bin/bash
.DELETE_ON_ERROR:
# Gin speaks MessagePack unless it is told not to. Nobody asks the service in it, and it takes longer to compile than any other package.
export GOFLAGS := $(strip $(GOFLAGS) -tags=nomsgpack)
.PHONY: demo test bench mutants cover soak console build check screenshots clean

build: console
	go build -o bin/jolly ./cmd/jolly

# The console is built anew only when something in web/ changed.
console: web/dist/index.html
web/dist/index.html: $(shell find web/src web/public web/index.html web/vite.config.ts web/package-lock.json -type f 2>/dev/null | sed 's/ /\\ /g')
	scripts/need.sh web
	rm -rf web/dist/assets
	cd web && npm run --silent build
	touch web/dist/index.html

demo:
	scripts/need.sh mariadb pdf
	$(MAKE) --no-print-directory build
	exec bin/jolly demo

# Everything that must hold: the checks of both languages, then every test. What is installed comes over the network, and Go is compiled meanwhile.
test:
	go build ./... & built=$$!; scripts/need.sh mariadb galera headless occt pdf odbc web && wait $$built
	$(MAKE) --no-print-directory build
	scripts/test.sh

check:
	scripts/check.sh

bench:
	scripts/need.sh mariadb
	$(MAKE) --no-print-directory build
	go run ./bench

# How much of the program the front doors cover: the command line, HTTP and the console, each driven for real.
cover:
	scripts/need.sh mariadb galera headless occt pdf odbc web
	$(MAKE) --no-print-directory build
	rm -rf .run/cover
	mkdir -p .run/cover
	GOCOVERDIR=$(CURDIR)/.run/cover go test -count=1 -timeout 40m ./e2e
	go test -count=1 -timeout 25m -cover -coverpkg=jollydrawer/... ./cli ./internal/api -args -test.gocoverdir=$(CURDIR)/.run/cover
	go tool covdata percent -i=.run/cover | grep -v '/e2e\|test$$\|/bench\|/scripts' | sort

# How many small mistakes in the heart packages their own tests notice.
mutants:
	go run ./scripts/mutants

# Millions of made values against their right answers, fuzzing, and the kill tests, many times over.
soak:
	scripts/need.sh mariadb galera odbc
	JOLLY_SOAK=100 go test ./core/measure -run 'TestMade|TestTwoReaders|TestEveryCharacter' -count=1 -timeout 60m -v
	go test ./core/measure -run xxx -fuzz FuzzReaders -fuzztime 10m
	go test ./core/bom -run xxx -fuzz FuzzReconcile -fuzztime 10m
	go test ./core/bom -run xxx -fuzz FuzzFitting -fuzztime 5m
	go test ./formats/ipc2581 -run xxx -fuzz FuzzBills -fuzztime 5m
	go test ./core/bom -run xxx -fuzz FuzzDesignators -fuzztime 5m
	JOLLY_SOAK=100 go test ./internal/service/lifecycles -run TestPartsWalk -count=1 -timeout 60m -v
	JOLLY_SOAK=1 go test ./internal/service/app -run 'TestADeed' -count=1 -timeout 60m
	go test ./core/lifecycle -run xxx -fuzz FuzzParse -fuzztime 5m
	go test -race -timeout 30m ./internal/store/... ./internal/service/... ./internal/follow/... ./core/lookup/...
	JOLLY_SOAK=100 go test ./e2e -run 'TestKill|TestTwoInstances' -count=1 -timeout 120m -v

# Pictures for docs/, from a demo that runs: make demo in another terminal first.
screenshots:
	scripts/need.sh chromium
	go run ./e2e/shoot

clean:
	rm -rf bin .run web/node_modules web/dist/assets web/dist/index.html
