"""A witness: notes which lines of a project begin to run, as the interpreter traces
them, and which functions are called. It knows nothing of Thrush."""

import atexit
import os
import sys
import threading

root = os.environ["WITNESS_ROOT"] + os.sep
lines, calls = set(), set()
OPTIMIZED = 1


def local(frame, event, arg):
    if event == "line":
        code = frame.f_code
        lines.add((code.co_filename, bool(code.co_flags & OPTIMIZED) and code.co_name, frame.f_lineno))
    return local


def trace(frame, event, arg):
    code = frame.f_code
    if not code.co_filename.startswith(root):
        return None
    if code.co_flags & OPTIMIZED:
        calls.add((code.co_filename, code.co_name, code.co_firstlineno))
    return local


def tell():
    sys.settrace(None)
    import json

    with open(os.path.join(os.environ["WITNESS_TO"], "%d.json" % os.getpid()), "w") as f:
        json.dump({"lines": sorted([p[len(root) :], c or "", n] for p, c, n in lines), "calls": sorted([p[len(root) :], c, n] for p, c, n in calls)}, f)


if os.environ.get("WITNESS_TO"):
    sys.path[:] = [p for p in sys.path if os.path.abspath(p) != os.path.dirname(os.path.abspath(__file__))]
    atexit.register(tell)
    threading.settrace(trace)
    sys.settrace(trace)
