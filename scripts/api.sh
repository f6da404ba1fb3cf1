#!/usr/bin/env bash
# Makes the front end's types and the JSON Schemas anew from the Rust types.
set -euo pipefail
cd "$(dirname "$0")/.."
. scripts/common.sh
mkdir -p "$LOGS"
need_node
need_packages
build_server
"$BIN" openapi >web/src/api/openapi.json
"$BIN" schema docs/formats
npm_quiet run api
