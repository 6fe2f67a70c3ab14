"""Has measured files run woven: finds them when they are loaded, has them compiled with
probes in, keeps what was compiled, and hands out counters.

What it imports is there already when an interpreter has started, or has a name that
no project's module has."""

import _frozen_importlib
import _frozen_importlib_external
import _imp
import _thread
import marshal
import os
import sys
from binascii import crc32

MAGIC_NUMBER, SourceFileLoader = _frozen_importlib_external.MAGIC_NUMBER, _frozen_importlib_external.SourceFileLoader

VARIABLES = ("THRUSH_PYTHON", "THRUSH_COUNTERS")
HEADER = 64  # bytes before the counters of a unit
MAGIC = b"thrush counters\n"
CHUNK = 1 << 16
ROOM = 1 << 30  # bytes of counters that a process may have

_plain_get_code = SourceFileLoader.get_code


class Entry:
    """A measured file."""

    __slots__ = ("path", "size", "changed", "unit", "digest", "tried")

    def __init__(self, path, size, changed, unit, digest):
        self.path, self.size, self.changed, self.unit, self.digest = path, int(size), int(changed), unit, digest
        self.tried = False


class Failed(Exception):
    """Says why a file runs as it is."""


class State:
    """What this process knows."""

    def __init__(self, here, index, text, counters):
        fields = text.split("\0")
        self.here, self.index = here, index
        self.store, home = fields[1], fields[2]
        roots = int(fields[3])
        self.roots = [r + os.sep for r in fields[4 : 4 + roots]]
        self.given = counters
        self.folder = counters or (home if os.path.isdir(home) else None)
        self.files, self.names = {}, {}
        rest = fields[4 + roots :]
        for i in range(0, len(rest) - 4, 5):
            entry = Entry(*rest[i : i + 5])
            for root in self.roots:
                self.files[root + entry.path] = entry
            self.names.setdefault(entry.path.rpartition("/")[2], []).append(entry)
        self.native = None
        self.lock = _thread.allocate_lock()  # of what is below
        self.fd = -1
        self.used = 0  # bytes of the counter file that are handed out
        self.there = 0  # bytes of it that are there
        self.blocks = {}
        self.noted = set()

    def find(self, path):
        """Gives the measured file that a path leads to, or that it is a copy of."""
        entry = self.files.get(path)
        if entry is not None:
            return entry
        candidates = self.names.get(os.path.basename(path))
        if not candidates:
            return None
        entry = self.files.get(os.path.realpath(path))
        if entry is None:
            entry = self.copied(path, candidates)
        self.files[path] = entry
        return entry

    def copied(self, path, candidates):
        """Gives the file that one elsewhere is a copy of, as an installation makes them."""
        try:
            size = os.stat(path).st_size
            candidates = [c for c in candidates if c.size == size and size > 0]
            if not candidates:
                return None
            with open(path, "rb") as f:
                found = digest(f.read())
        except OSError:
            return None
        candidates = [c for c in candidates if c.digest == found]
        if not candidates:
            return None
        parts = path.split(os.sep)[::-1]

        def alike(entry):
            n = 0
            for a, b in zip(parts, entry.path.split("/")[::-1]):
                if a != b:
                    break
                n += 1
            return n

        best = max(candidates, key=alike)
        copy = Entry(best.path, best.size, 0, best.unit, best.digest)
        copy.changed = os.stat(path).st_mtime_ns
        return copy

    def note(self, path, why):
        """Tells Thrush why a file, or a part of one, runs as it is."""
        if not self.folder or (path, why) in self.noted:
            return
        self.noted.add((path, why))
        try:
            with open(os.path.join(self.folder, "n%d" % os.getpid()), "a", encoding="utf-8", errors="surrogateescape") as f:
                f.write('{"path": %s, "why": %s}\n' % (_json(path), _json(why)))
        except OSError:
            pass

    def code(self, path, change=None, how=""):
        """Gives the woven code of a file, or None where it is to run as it is. What changes
        the tree before it is compiled has a name."""
        entry = self.find(path)
        if entry is None or not self.folder:
            return None
        try:
            return self.woven(entry, path, change, how)
        except Failed as e:
            self.note(entry.path, str(e))
        except Exception as e:
            if isinstance(e, SyntaxError):
                return None  # which the interpreter says in its own way
            self.note(entry.path, "weaving it failed in Python %d.%d: %r" % (sys.version_info[0], sys.version_info[1], e))
        return None

    def woven(self, entry, path, change, how):
        stat = os.stat(path)
        if stat.st_size != entry.size or stat.st_mtime_ns != entry.changed:
            with open(path, "rb") as f:
                if digest(f.read()) != entry.digest:
                    raise Failed("it changed while the command ran")
            entry.size, entry.changed = stat.st_size, stat.st_mtime_ns
        counters, hits, specs, code = self.compiled(entry, path, change, how)
        made = self.probes(entry.unit, counters, hits, specs)
        if code.co_filename != path:
            _imp._fix_co_filename(code, path)
        return _filled(code, made)

    def probes(self, unit, counters, hits, specs):
        """Makes the probes and pairs of a unit."""
        with self.lock:
            base = self.block(unit, counters, hits)
        width = 1 if hits else 8
        probe, pair, made = self.native.probe, self.native.pair, []
        for s in specs:
            if s[0] == "pair":
                made.append(pair(None if s[1] < 0 else made[s[1]], None if s[2] < 0 else made[s[2]]))
            else:
                kind, cell, id, a, b, c, masks = s
                made.append(probe(kind, hits, base + cell * width, base + id, a, b, c, masks))
        return made

    def compiled(self, entry, path, change=None, how=""):
        name = os.path.join(self.store, "%s.%s-%d%s.code" % (entry.unit, sys.implementation.cache_tag, sys.flags.optimize, how))
        try:
            with open(name, "rb") as f:
                data = f.read()
            if data[:4] == MAGIC_NUMBER and int.from_bytes(data[4:8], "little") == crc32(data[8:]):
                return marshal.loads(data[8:])
        except (OSError, ValueError, EOFError, TypeError):
            pass
        made = _beside("compiling").compile_woven(os.path.join(self.store, entry.unit + ".woven"), path, change)
        data = marshal.dumps(made)
        data = MAGIC_NUMBER + crc32(data).to_bytes(4, "little") + data
        temp = "%s.%d" % (name, os.getpid())
        try:
            with open(temp, "wb") as f:
                f.write(data)
            os.replace(temp, name)
        except OSError:
            pass
        return marshal.loads(data[8:])

    def block(self, unit, counters, hits):
        """Gives the place of a unit's counters in the mapped file."""
        if unit in self.blocks:
            return self.blocks[unit][0] + HEADER
        if self.native is None:
            self.native = _native(self.here)
            if self.native.mapped():
                raise Failed("a second interpreter of the same process ran it")
            _beside("sending").start(self, SourceFileLoader.get_code, _beside)
        size = HEADER + max(counters, 1) * (1 if hits else 8)
        at = self.used
        self.room(at + size)
        head = MAGIC + unit.encode() + b"%08x%d" % (counters, 1 if hits else 8)
        self.native.view(at, HEADER)[:] = head.ljust(HEADER, b"\0")
        self.blocks[unit] = (at, size)
        self.used = (at + size + HEADER - 1) // HEADER * HEADER
        return at + HEADER

    def room(self, size):
        """Makes the file large enough, on the disk as well: memory that is mapped to a
        file cannot fail politely."""
        if size > ROOM:
            raise Failed("there are too many counters in one process")
        try:
            first = self.fd < 0
            if first:
                self.fd = self.open()
            if size > self.there:
                more = max(size - self.there + CHUNK - 1, 0) // CHUNK * CHUNK
                os.posix_fallocate(self.fd, self.there, more)
                self.there += more
            if first:
                self.native.map(self.fd, ROOM)
                os.register_at_fork(after_in_child=self.forked)
        except OSError as e:
            raise Failed("there is no room for its counters: %s" % e.strerror) from None

    def open(self):
        for n in range(1000):
            try:
                return os.open(
                    os.path.join(self.folder, "p%d-%d" % (os.getpid(), n)), os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666
                )
            except FileExistsError:
                pass
        raise OSError(17, "too many files of counters")

    def forked(self):
        """Gives the child of a fork counters of its own, which begin at 0."""
        self.lock = _thread.allocate_lock()
        try:
            fd = self.open()
            os.posix_fallocate(fd, 0, self.there)
            for at, _ in self.blocks.values():
                os.pwrite(fd, bytes(self.native.view(at, HEADER)), at)
            self.native.map(fd, ROOM)
            os.close(self.fd)
            self.fd = fd
        except OSError:
            pass  # it goes on counting with its parent


def _filled(code, made):
    """Puts probes in the place of the constants that stand for them."""
    consts = []
    for c in code.co_consts:
        if type(c) is str and c.startswith("\0thrush "):
            c = made[int(c[8:])]
        elif type(c) is type(code):
            c = _filled(c, made)
        consts.append(c)
    return code.replace(co_consts=tuple(consts))


def _json(text):
    return '"%s"' % "".join(c if c >= " " and c not in '"\\' else "\\u%04x" % ord(c) for c in text)


def digest(data):
    try:
        from _sha2 import sha256
    except ImportError:
        try:
            from _sha256 import sha256
        except ImportError:
            from _hashlib import openssl_sha256 as sha256
    return sha256(data).hexdigest()[:32]


def _native(here):
    """Loads the counters, which are made for Pythons that have one lock for all threads."""
    path = os.path.join(here, "counters-%s.so" % os.uname().machine)
    if not getattr(sys, "_is_gil_enabled", lambda: True)():
        raise Failed("this Python runs threads without a common lock")
    try:
        loader = _frozen_importlib_external.ExtensionFileLoader("_thrush", path)
        return _imp.create_dynamic(_frozen_importlib.ModuleSpec("_thrush", loader, origin=path))
    except ImportError as e:
        raise Failed("this Python cannot load the counters: %s" % e) from None


def _beside(name):
    path = os.path.join(os.path.dirname(__file__), name + ".py")
    spec = _frozen_importlib_external.spec_from_file_location("_thrush_" + name, path)
    module = _frozen_importlib.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def _hook(state):
    def get_code(self, fullname):
        if fullname == "subprocess":
            _watch_children(state)
        code = state.code(self.path)
        if code is None:
            code = _plain_get_code(self, fullname)
        return code

    SourceFileLoader.get_code = _as_own(get_code, _plain_get_code)
    plain_frozen, plain_source = _frozen_importlib.FrozenImporter.exec_module, SourceFileLoader.exec_module

    def exec_frozen(module):
        plain_frozen(module)
        if module.__name__ == "runpy":
            _watch_runpy(state, module)

    def exec_module(self, module):
        plain_source(self, module)
        if module.__name__ == "runpy":
            _watch_runpy(state, module)
        elif module.__name__ == "_pytest.assertion.rewrite":
            _beside("asserting").watch(state, module)

    if sys.version_info >= (3, 11):
        _frozen_importlib.FrozenImporter.exec_module = staticmethod(_as_own(exec_frozen, plain_frozen))
    SourceFileLoader.exec_module = _as_own(exec_module, plain_source)

    zips = sys.modules.get("zipimport")
    if zips is not None:
        plain_zip = zips.zipimporter.get_code

        def zipped(self, fullname):
            for root in state.roots:
                if self.archive.startswith(root):
                    state.note(self.archive[len(root) :], "it is an archive; what is loaded from it is not measured")
                    break
            return plain_zip(self, fullname)

        zips.zipimporter.get_code = zipped


def _as_own(function, plain):
    """Makes a function look like the one of the interpreter that it stands for, which
    leaves its frames out of what it prints of errors."""
    function.__code__ = function.__code__.replace(co_filename=plain.__code__.co_filename)
    function.__qualname__, function.__module__ = plain.__qualname__, plain.__module__
    return function


def _watch_runpy(state, runpy):
    """Has files run woven that are run by their path."""
    plain = runpy._get_code_from_file

    def from_file(*args):
        code = state.code(os.path.abspath(os.fsdecode(args[-1])))
        if code is None:
            return plain(*args)
        return (code, args[-1]) if sys.version_info < (3, 12) else code

    runpy._get_code_from_file = _as_own(from_file, plain)


def _take_script(state):
    """Has the script of the command line run woven."""
    if not sys.argv or sys.argv[0] in ("", "-", "-c", "-m") or sys.flags.inspect or sys.flags.interactive:
        return
    path = os.path.abspath(sys.argv[0])
    if state.find(path) is None:
        return
    code = state.code(path)
    if code is not None:
        state.native.run(code, SourceFileLoader)


def _watch_children(state):
    """Lets Python processes report that are started with an environment of their own."""
    try:
        import _posixsubprocess
    except ImportError:
        return
    plain = _posixsubprocess.fork_exec

    def fork_exec(args, executables, close, passed, cwd, env, *rest):
        try:
            env = _with_ours(state, executables, env)
        except Exception:
            pass
        return plain(args, executables, close, passed, cwd, env, *rest)

    _posixsubprocess.fork_exec = fork_exec


def _watch_programs(state):
    """The same for programs that this process becomes, or starts without subprocess."""

    def ours(path, env):
        pairs = [os.fsencode(k) + b"=" + os.fsencode(v) for k, v in env.items()]
        pairs = _with_ours(state, [os.fsencode(path)], pairs)
        return dict(p.split(b"=", 1) for p in pairs)

    def wrap(name):
        plain = getattr(os, name, None)
        if plain is None:
            return

        def instead(path, args, env, *rest, **options):
            try:
                env = ours(path, env)
            except Exception:
                pass
            return plain(path, args, env, *rest, **options)

        setattr(os, name, _named(instead, plain))
        for kind in (os.supports_fd, os.supports_dir_fd, os.supports_follow_symlinks):
            if plain in kind:
                kind.add(getattr(os, name))

    for name in ("execve", "posix_spawn", "posix_spawnp"):
        wrap(name)
    plain = os.execv

    def execv(path, args):
        try:
            env = ours(path, os.environ)
        except Exception:
            return plain(path, args)
        return os.execve(path, args, env)

    os.execv = _named(execv, plain)


def _named(function, plain):
    function.__name__ = function.__qualname__ = plain.__name__
    function.__module__, function.__doc__ = plain.__module__, plain.__doc__
    return function


def _with_ours(state, executables, env):
    given = env
    if env is None:
        env = [k + b"=" + v for k, v in os.environb.items()]
    here = os.fsencode(state.here)
    own = [e[11:] for e in env if e.startswith(b"PYTHONPATH=")]
    if any(e.startswith(b"THRUSH_PYTHON=") for e in env):
        if any(here in e.split(b":") for e in own):
            return given
        # Only the path is another: the program knows the rest, and so do shells.
        path = b":".join([here] + [e for e in own if e])
        return [e for e in env if not e.startswith(b"PYTHONPATH=")] + [b"PYTHONPATH=" + path]
    if not any(_is_python(e) for e in executables):
        return given
    out = [e for e in env if not e.startswith(b"PYTHONPATH=")]
    out += [b"PYTHONPATH=" + b":".join([here] + [e for e in own if e]), b"THRUSH_PYTHON=" + os.fsencode(state.index), b"THRUSH_HIDDEN=1"]
    if state.given:
        out.append(b"THRUSH_COUNTERS=" + os.fsencode(state.given))
    return out


def _is_python(executable):
    if os.path.basename(executable).startswith(b"python"):
        return os.path.exists(executable)
    try:
        with open(executable, "rb") as f:
            first = f.readline(256)
    except OSError:
        return False
    return first.startswith(b"#!") and b"python" in first


def start(here, index, text, counters):
    state = State(here, index, text, counters)
    if not state.folder:
        return
    _hook(state)
    _watch_programs(state)
    for module in list(sys.modules.values()):
        path = getattr(module, "__file__", None)
        if path in state.files:
            state.note(state.files[path].path, "the interpreter had loaded it before anything could be woven, by a .pth file maybe")
    _take_script(state)
