#!/usr/bin/env bash
# Makes wwwroot/lib from the pinned packages and the theme. Needs Node; its results are committed, so
# that starting and testing Zandrik does not.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")"
npm ci --ignore-scripts --no-audit --no-fund --silent
LIB=../src/Zandrik.Web/wwwroot/lib
ASSETS=../tests/Zandrik.Web.Tests/Assets
rm -rf "$LIB"; mkdir -p "$LIB/fonts" "$ASSETS"
npx sass --quiet-deps --silence-deprecation=import --load-path=node_modules --style=compressed --no-source-map theme.scss "$LIB/bootstrap.css"
# A test compares this with the sources, so a theme that was changed and not built is found out.
cat theme.scss package-lock.json | sha256sum | cut -d' ' -f1 > "$LIB/built-from.sha256"
cp node_modules/htmx.org/dist/htmx.min.js "$LIB/htmx.min.js"
for weight in 400 500 600; do
  cp "node_modules/@fontsource/barlow/files/barlow-latin-$weight-normal.woff2" "$LIB/fonts/"
done
cp node_modules/@fontsource/barlow-condensed/files/barlow-condensed-latin-600-normal.woff2 "$LIB/fonts/"
cp node_modules/bootstrap/LICENSE "$LIB/bootstrap.LICENSE"
cp node_modules/htmx.org/LICENSE "$LIB/htmx.LICENSE"
cp node_modules/@fontsource/barlow/LICENSE "$LIB/fonts/barlow.LICENSE"
cp node_modules/axe-core/axe.min.js "$ASSETS/axe.min.js"
cp node_modules/axe-core/LICENSE "$ASSETS/axe.LICENSE"
