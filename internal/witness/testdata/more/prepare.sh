#!/bin/sh
# Fetches further projects and what their tests need, at fixed versions, into this folder.
set -e
python="$1"
[ -x venv/bin/python ] || "$python" -m venv venv
venv/bin/pip -q install pytest==8.3.4 pytest-timeout==2.3.1 hypothesis==6.123.2 sortedcontainers==2.4.0 freezegun==1.5.1 cloudpickle==3.1.2 psutil==6.1.1 \
	markupsafe==3.0.2 exceptiongroup==1.2.2 ephemeral-port-reserve==1.1.4 watchdog==6.0.0 trustme==1.2.0 truststore==0.10.0 uvloop==0.21.0 \
	outcome==1.3.0.post0 sniffio==1.3.1 idna==3.10 attrs==24.3.0 typing_extensions==4.12.2 trio==0.27.0
for p in itsdangerous==2.2.0 pluggy==1.5.0 werkzeug==3.1.3 anyio==4.8.0 trio==0.27.0 joblib==1.4.2; do
	[ -e "$(echo "$p" | sed 's/==/-/').tar.gz" ] || venv/bin/pip -q download --no-binary :all: --no-deps "$p" -d .
done
[ -f package.json ] || echo '{"private":true}' > package.json
npm install --no-audit --no-fund --ignore-scripts --loglevel=error tape@5.9.0 acorn@8.14.0 acorn-walk@8.3.4 \
	deep-equal@2.2.3 object-is@1.1.6 has-typed-arrays@1.0.1 has-proto@1.0.3 object.getownpropertydescriptors@2.1.8 available-typed-arrays@1.0.7 for-each@0.3.3 \
	semver@6.3.1 has-symbols@1.1.0 2>&1 | grep -v "^npm warn" || true
for p in deep-equal@2.2.3; do
	name=$(echo "$p" | tr @ -)
	[ -f "$name.tgz" ] || npm pack --silent --ignore-scripts "$p" >/dev/null
done
