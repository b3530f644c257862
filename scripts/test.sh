#!/bin/sh
# test.sh: everything that must hold. The checks of both languages run beside the tests, as neither keeps all processors busy by
# itself; what they say comes at the end. Memory is spent to save time: garbage is collected later than a service would.
set -u
cd "$(dirname "$0")/.."
export GOGC=${GOGC:-400}
said=$(mktemp)
trap 'rm -f "$said"' EXIT
scripts/check.sh >"$said" 2>&1 &
checks=$!
go test -vet=off -timeout 44m ./...
tests=$?
wait $checks
checked=$?
grep -v '✓' "$said"
[ $checked -eq 0 ] || echo "make test: the checks above found something" >&2
[ $tests -eq 0 ] || echo "make test: a test failed" >&2
exit $((checked | tests))
