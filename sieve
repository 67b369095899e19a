#!/usr/bin/env bash
# Eager Sieve's one command. This part needs nothing but Node and npm; the rest is in tools/.
set -euo pipefail
root="$(cd "$(dirname "${BASH_SOURCE[0]}")" && pwd)"

if ! command -v node >/dev/null || ! node -e 'const [a, b] = process.versions.node.split(".").map(Number); process.exit((a === 20 && b >= 19) || a >= 22 ? 0 : 1)'; then
  echo "Eager Sieve needs Node 20.19 or newer, with npm. Found: $(node --version 2>/dev/null || echo none)." >&2
  exit 1
fi

# The packages are installed again when the lock file has changed.
stamp="$root/node_modules/.installed-for"
wanted="$(node -e 'console.log(require("node:crypto").createHash("sha256").update(require("node:fs").readFileSync(process.argv[1])).digest("hex"))' "$root/package-lock.json")"
if [ "$(cat "$stamp" 2>/dev/null || true)" != "$wanted" ] && [ "${1:-help}" != help ] && [ "${1:-}" != stop ]; then
  echo "· installing the packages (about a minute)"
  (cd "$root" && npm ci --no-progress --loglevel=error) >&2
  echo "$wanted" >"$stamp"
fi

if [ ! -d "$root/node_modules/@swc-node/register" ]; then
  sed -n 's/^# usage: \{0,1\}//p' "$root/sieve"
  exit 0
fi
# usage: ./sieve start [--empty] [--port N] [--size N] · stop · reset · test [checks|unit|server|browser|changed|matrix|fuzz|kills] · verify · export FILE · import FILE · backup FILE · restore FILE · key create --name N --scopes a,b · person reset EMAIL · bench [--contacts N] [--signals N] · help
exec env SWC_NODE_PROJECT="$root/tools/tsconfig.json" node --preserve-symlinks -r @swc-node/register "$root/tools/src/main.ts" "$@"
