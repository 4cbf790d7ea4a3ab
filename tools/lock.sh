#!/bin/sh
# Renews both Python lock files from pyproject.toml. Needs uv (`pip install uv`), a development-only convenience.
set -eu
cd "$(dirname "$0")/.."
uv pip compile -q --no-header --no-annotate pyproject.toml --extra build -o requirements.lock "$@"
uv pip compile -q --no-header --no-annotate pyproject.toml --extra build --extra dev -c requirements.lock -o requirements-dev.lock "$@"
