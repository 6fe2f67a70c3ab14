"""Puts woven code in front of the import of measured files.

Thrush has it imported by every Python that its command starts. It must be quick when
nothing is to be done, must never raise, and must leave no trace that programs see: it
imports nothing that is not there already, since the project may have modules of the
same names.
"""

import sys

import _frozen_importlib
import _frozen_importlib_external


def _start():
    import os

    here = os.path.dirname(os.path.abspath(__file__))
    env = os.environ
    index = env.get("THRUSH_PYTHON")
    counters = env.get("THRUSH_COUNTERS")
    if env.pop("THRUSH_HIDDEN", None):
        # Whoever started this process gave it an environment without these.
        for name in ("THRUSH_PYTHON", "THRUSH_COUNTERS"):
            env.pop(name, None)
        rest = env.get("PYTHONPATH", "").split(os.pathsep)
        rest = os.pathsep.join(p for p in rest if p != here)
        if rest:
            env["PYTHONPATH"] = rest
        else:
            env.pop("PYTHONPATH", None)
    sys.path[:] = [p for p in sys.path if os.path.abspath(p) != here]
    if not index:
        return
    if sys.version_info < (3, 9) or sys.implementation.name != "cpython":
        why = "%s %d.%d ran, and Thrush measures CPython from 3.9 on" % (sys.implementation.name, sys.version_info[0], sys.version_info[1])
        if counters:
            with open(os.path.join(counters, "n%d" % os.getpid()), "a") as f:
                f.write('{"path": "(Python)", "why": "%s"}\n' % why)
        return
    try:
        with open(index, "rb") as f:
            text = os.fsdecode(f.read())
    except OSError:
        return
    spec = _frozen_importlib_external.spec_from_file_location("_thrush_weaving", os.path.join(here, "weaving.py"))
    module = _frozen_importlib.module_from_spec(spec)
    spec.loader.exec_module(module)
    module.start(here, index, text, counters)


def _next():
    """Runs the sitecustomize that there would be without this one."""
    spec = _frozen_importlib_external.PathFinder.find_spec("sitecustomize")
    if spec is None or spec.loader is None:
        return
    module = _frozen_importlib.module_from_spec(spec)
    sys.modules["sitecustomize"] = module
    spec.loader.exec_module(module)


try:
    _start()
except Exception as e:
    if sys.flags.verbose:
        sys.stderr.write("thrush: Python is not measured here: %r\n" % e)
_next()
