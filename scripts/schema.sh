#!/bin/sh
# schema.sh: writes the API document and the console's types anew.
set -eu
cd "$(dirname "$0")/.."
go run ./cmd/jolly openapi >web/openapi.json
cd web
npx --no-install openapi-typescript openapi.json -o src/api/schema.d.ts >/dev/null
