"""Compiles a file with probes in, from the orders that Thrush wrote for it."""

import _ast as ast
import _frozen_importlib_external
import _warnings
import os
import sys

ONLY_TREE = 0x400  # for compile

TICK, ADD, AT, NOTE, FRESH = range(5)


def copy_location(new, old):
    for name in ("lineno", "col_offset", "end_lineno", "end_col_offset"):
        setattr(new, name, getattr(old, name))
    return new


def iter_fields(node):
    for field in node._fields:
        value = getattr(node, field, None)
        if value is not None:
            yield field, value


class Specs:
    """The probes and pairs of a file, each once."""

    def __init__(self):
        self.list, self.known = [], {}

    def add(self, spec):
        if spec not in self.known:
            self.known[spec] = len(self.list)
            self.list.append(spec)
        return self.known[spec]

    def effect(self, text):
        """Gives the number of a probe from an order such as "tick:5", or -1 for none."""
        if text == "-":
            return -1
        word, *rest = text.split(":")
        n = [int(x) for x in rest]
        if word == "tick":
            return self.add((TICK, n[0], 0, 0, 0, 0, 0))
        if word == "add":
            return self.add((ADD, 0, n[0], n[1], 0, 0, 0))
        if word == "at":
            return self.add((AT, n[1], n[0], n[2], 0, 0, 0))
        if word == "note":
            return self.add((NOTE, n[1], n[0], n[2], n[3], n[5], n[4]))
        raise ValueError("unknown order " + text)

    def pair(self, yes, no):
        return self.add(("pair", yes, no))


def stands_for(number, like):
    return copy_location(ast.Constant("\0thrush %d" % number), like)


def effect(number, like):
    """An expression that has a probe's effect, and is None."""
    return copy_location(ast.UnaryOp(ast.USub(), stands_for(number, like)), like)


def statement(number, like):
    return copy_location(ast.Expr(effect(number, like)), like)


def either(op, first, second, like):
    return copy_location(ast.BoolOp(op, [first, second]), like)


class Weaver:
    def __init__(self, orders):
        self.specs = Specs()
        self.statements, self.expressions = {}, {}
        for order in orders:
            kind, *words = order.split(" ")
            size, places = (2, self.statements) if kind == "s" else (4, self.expressions)
            places.setdefault(tuple(map(int, words[:size])), []).append(words[size:])

    def weave(self, tree):
        self.lists(tree)
        left = len(self.statements) + len(self.expressions)
        if left:
            raise ValueError("%d places were not found" % left)
        return tree

    def lists(self, node):
        """Weaves all that hangs on a node. Trees may be deep, so it keeps its own stack."""
        work = [node]
        while work:
            node = work.pop()
            for field, value in iter_fields(node):
                if isinstance(value, list):
                    if value and isinstance(value[0], ast.stmt):
                        setattr(node, field, self.body(value, work))
                    else:
                        for i, item in enumerate(value):
                            if isinstance(item, ast.AST):
                                value[i] = self.one(item, work)
                elif isinstance(value, ast.AST):
                    new = self.one(value, work)
                    if new is not value:
                        setattr(node, field, new)

    def one(self, node, work):
        work.append(node)
        if not isinstance(node, ast.expr) or not self.expressions:
            return node
        orders = self.expressions.pop((node.lineno, node.col_offset, node.end_lineno, node.end_col_offset), None)
        return self.expression(node, orders) if orders else node

    def body(self, statements, work):
        out = []
        for s in statements:
            work.append(s)
            after = []
            for word, number in self.statements.pop((s.lineno, s.col_offset), ()):
                probe = statement(self.specs.effect("tick:" + number), s)
                if word == "before":
                    out.append(probe)
                elif word == "after":
                    after.append(probe)
                elif word == "else":
                    if s.orelse:
                        raise ValueError("line %d has an else" % s.lineno)
                    s.orelse = [probe]
                elif word == "default":
                    any_ = copy_location(ast.MatchAs(), s)
                    s.cases.append(ast.match_case(any_, None, [probe]))
                else:
                    raise ValueError("unknown order " + word)
            out.append(s)
            out += after
        return out

    def expression(self, node, orders):
        like, before = node, []
        for order in orders:
            if order[0] == "before":
                before.append(self.specs.effect("tick:" + order[1]))
            elif order[0] == "fresh":
                before.append(self.specs.add((FRESH, 0, int(order[1]), 0, 0, 0, 0)))
            else:
                node = self.operand(node, order[0] == "pass", *map(self.specs.effect, order[1:]))
        for number in before:
            first, inner = effect(number, like), node
            node = either(ast.Or(), first, inner, like)
            node.thrush_inner, node.thrush_first = inner, first
        return node

    def operand(self, inner, kept, yes, no):
        node = self.asked(inner, kept, yes, no)
        if node is not inner:
            node.thrush_inner = inner
        return node

    def asked(self, node, kept, yes, no):
        like = node
        if yes < 0 and no < 0:
            return node
        if kept:
            pair = stands_for(self.specs.pair(yes, no), like)
            return copy_location(ast.BinOp(pair, ast.MatMult(), node), like)
        true = copy_location(ast.Constant(True), like)
        on_true = either(ast.Or(), effect(yes, like), true, like) if yes >= 0 else true
        if no < 0:
            return either(ast.And(), node, on_true, like)
        if yes < 0:
            return either(ast.Or(), node, effect(no, like), like)
        return copy_location(ast.IfExp(node, on_true, effect(no, like)), like)


def compile_woven(orders, path, change=None):
    """Gives how many counters a file has, whether they only note, its probes, and its
    code in which constants stand for them. What changes trees before they are compiled
    sees the one with probes."""
    with open(orders, encoding="utf-8") as f:
        first, *orders = f.read().splitlines()
    counters, hits = map(int, first.split(" "))
    with open(path, "rb") as f:
        source = f.read()
    with Deep(), Quiet(_compiled_before(path)):
        tree = compile(source, path, "exec", ONLY_TREE, dont_inherit=True)
    weaver = Weaver(orders)
    weaver.weave(tree)
    if change:
        change(tree, source)
    with Deep(), Quiet(True):
        code = compile(tree, path, "exec", dont_inherit=True)
    return counters, hits, weaver.specs.list, code


class Deep:
    """Lets trees be as deep as the interpreter compiles them: as objects they take more
    calls than they do inside it."""

    def __enter__(self):
        self.limit = sys.getrecursionlimit()
        sys.setrecursionlimit(5 * self.limit)

    def __exit__(self, *error):
        sys.setrecursionlimit(self.limit)


class Quiet:
    """Keeps the compiler from warning."""

    ignore = ("ignore", None, Warning, None, 0)

    def __init__(self, quiet):
        self.quiet = quiet

    def __enter__(self):
        if self.quiet:
            _warnings.filters.insert(0, self.ignore)
            self.changed()

    def __exit__(self, *error):
        if self.quiet:
            _warnings.filters.remove(self.ignore)
            self.changed()

    def changed(self):
        for name in ("_filters_mutated", "_filters_mutated_lock_held"):
            if hasattr(_warnings, name):
                getattr(_warnings, name)()
                return


def _compiled_before(path):
    """Tells whether the interpreter would find compiled code, and so not warn."""
    try:
        return os.path.exists(_frozen_importlib_external.cache_from_source(path))
    except NotImplementedError:
        return True
