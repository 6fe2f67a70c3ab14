#!/bin/sh
# Fetches the projects and what their tests need, at fixed versions, into this folder.
set -e
python="$1"
[ -x venv/bin/python ] || "$python" -m venv venv
venv/bin/pip -q install pytest==8.3.4 pytest-xdist==3.6.1 execnet==2.1.2 pluggy==1.7.0 iniconfig==2.3.1 hypothesis==6.123.2 sortedcontainers==2.4.0 \
	cloudpickle==3.1.2 pretend==1.0.9 markupsafe==3.0.2 trio==0.27.0 tox==4.23.2
for p in attrs==24.3.0 click==8.1.8 jinja2==3.1.5 packaging==24.2; do
	ls "$(echo "$p" | sed 's/==/-/').tar.gz" >/dev/null 2>&1 || venv/bin/pip -q download --no-binary :all: --no-deps "$p" -d .
done
