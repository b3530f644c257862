#!/bin/sh
# check.sh: formatting, vet, static analysis and types of both languages, and that generated files are current.
set -eu
cd "$(dirname "$0")/.."
say() { echo "check: $*"; }

say gofmt
bad=$(gofmt -l $(git ls-files -co --exclude-standard -- '*.go' | tr '\n' ' '))
[ -z "$bad" ] || { echo "not formatted: $bad" >&2; exit 1; }
say go vet
go vet ./...
say staticcheck
go tool staticcheck ./...
say "the API document and the console's types are current"
tmp=$(mktemp -d)
trap 'rm -rf "$tmp"' EXIT
bin/jolly openapi >"$tmp/openapi.json"
cmp -s "$tmp/openapi.json" web/openapi.json || { echo "web/openapi.json is not what 'jolly openapi' prints: run scripts/schema.sh" >&2; exit 1; }
cd web
npx --no-install openapi-typescript openapi.json -o "$tmp/schema.d.ts" >/dev/null 2>&1
cmp -s "$tmp/schema.d.ts" src/api/schema.d.ts || { echo "web/src/api/schema.d.ts is not current: run scripts/schema.sh" >&2; exit 1; }
say prettier, eslint
npm run --silent lint
say tsc
npm run --silent types
say vitest
npm run --silent test
