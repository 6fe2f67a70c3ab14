#!/bin/sh
# Fetches the projects and what their tests need, at fixed versions, into this folder.
set -e
[ -f package.json ] || echo '{"private":true}' > package.json
npm install --no-audit --no-fund --ignore-scripts --loglevel=error tape@5.9.0 acorn@8.14.0 acorn-walk@8.3.4 express@4.21.2 koa@2.15.3 \
	vitest@2.1.8 jest@29.7.0 mocha@10.8.2 tsx@4.19.2 esbuild@0.21.5 typescript@5.7.2 webpack@5.97.1 rollup@4.29.1 vite@5.4.11 \
	es-value-fixtures@1.7.1 for-each@0.3.3 has-symbols@1.1.0 has-tostringtag@1.0.2 iconv-lite@0.5.1 mock-property@1.1.0 safer-buffer@2.1.2 \
	has-bigints@1.0.2 has-override-mistake@1.0.1 has-property-descriptors@1.0.2 string.prototype.repeat@1.0.0 globalthis@1.0.4 core-js@2.6.12 error-cause@1.0.8 semver@7.6.3 \
	object-is@1.1.6 array.prototype.every@1.1.6 side-channel@1.1.0 call-bound@1.0.3 es-get-iterator@1.1.3 is-date-object@1.1.0 2>&1 | grep -v "^npm warn" || true
for p in qs@6.13.1 minimist@1.2.8 object-inspect@1.13.3 resolve@1.22.8 semver@7.6.3 zod@3.25.76; do
	name=$(echo "$p" | tr @ -)
	[ -f "$name.tgz" ] || npm pack --silent --ignore-scripts "$p" >/dev/null
done
