"""Has functions work that are sent elsewhere by value, with their code: pickled by tools
that take code objects apart, or marshalled.

A probe that is pickled becomes one again where Thrush watches as well, and counts there;
elsewhere it is something that does nothing. What is marshalled can hold no object of ours,
so the code goes that the file would have had without probes.
"""

import marshal

# What is pickled, as text for eval: it must work where there is no Thrush.
MADE = (
    "(lambda make: make(%r, %r, %r, %r) if make else %s)"
    "(getattr(__import__('_frozen_importlib_external').SourceFileLoader.get_code, 'thrush_probe', None))"
)
NOTHING = "0"  # its negative is as false as None
PASSES = "type('passes', (), {'__matmul__': lambda self, value: value})()"

CodeType = type((lambda: 0).__code__)

# As the module weaving has them.
MAGIC, HEADER = b"thrush counters\n", 64


def start(state, hook, beside):
    def unit_at(cell):
        for unit, (at, size) in state.blocks.items():
            if at <= cell < at + size:
                head = bytes(state.native.view(at, HEADER))
                return unit, int(head[len(MAGIC) + 32 :][:8], 16), at + HEADER
        raise ValueError("unknown probe")

    def spec(fields):
        kind, hits, cell, id, a, b, c, masks = fields
        unit, counters, base = unit_at(cell)
        return (unit, counters, hits), (kind, (cell - base) // (1 if hits else 8), id - base, a, b, c, masks)

    def reduced(first, *second):
        """Gives what pickle wants of a probe, or of the two of a pair."""
        of, specs = None, []
        for fields in (first, *second):
            if fields is not None:
                of, one = spec(fields)
                specs.append(one)
        if second:
            yes, no = first is not None, second[0] is not None
            specs.append(("pair", 0 if yes else -1, len(specs) - 1 if no else -1))
        return eval, (MADE % (*of, specs, PASSES if second else NOTHING),)

    def make(unit, counters, hits, specs):
        return state.probes(unit, counters, hits, specs)[-1]

    state.native.pickles(reduced)
    hook.thrush_probe = make


    def signature(code):
        """Tells a code object from all others of its file, whether it has probes or not yet."""
        consts = [c.__reduce__()[1] if type(c).__module__ == "thrush" else type(c) for c in code.co_consts]
        return code.co_name, code.co_firstlineno, code.co_code, consts

    def each(code):
        yield code
        for c in code.co_consts:
            if type(c) is CodeType:
                yield from each(c)

    def written(code):
        """Gives the code of the file, as it would be without probes, in place of ours."""
        path = code.co_filename
        with open(path, "rb") as f, beside("compiling").Quiet(True):
            plain = compile(f.read(), path, "exec", dont_inherit=True)
        woven = state.code(path)
        if woven is None:
            return code
        want = signature(code)
        for w, p in zip(each(woven), each(plain)):
            if signature(w) == want:
                state.note(state.find(path).path, "a function of it was marshalled; what runs of the copy counts nothing")
                return p
        return code

    def plain(value):
        if type(value) is CodeType:
            return written(value)
        if type(value) in (tuple, list, set, frozenset):
            return type(value)(plain(v) for v in value)
        if type(value) is dict:
            return {plain(k): plain(v) for k, v in value.items()}
        return value

    def instead(name, call):
        def dumping(value, *rest):
            try:
                return call(value, *rest)
            except ValueError:
                return call(plain(value), *rest)

        dumping.__name__ = dumping.__qualname__ = name
        dumping.__module__, dumping.__doc__ = "marshal", call.__doc__
        setattr(marshal, name, dumping)

    instead("dumps", marshal.dumps)
    instead("dump", marshal.dump)
