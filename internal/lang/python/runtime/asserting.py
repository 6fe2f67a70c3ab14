"""Weaves modules in which pytest rewrites the assert statements: plug-ins, and what they
register.

pytest loads such a module itself and compiles a tree of it that it has changed, and keeps
what it compiled beside the source. Here it changes the tree in which the probes are, and
what is compiled is kept with Thrush's own.
"""


def watch(state, rewrite):
    """Has the loader of pytest run woven code, if it is as it has been for years."""
    loader, rewriter = rewrite.AssertionRewritingHook, rewrite.AssertionRewriter
    plain_exec, plain_visit = loader.exec_module, rewriter.visit
    rewrite_asserts = rewrite.rewrite_asserts

    def exec_module(self, module):
        path = module.__spec__ and module.__spec__.origin
        if path and state.find(path):
            passes = self.config.getini("enable_assertion_pass_hook")

            def change(tree, source):
                rewrite_asserts(tree, source, path, self.config)

            code = state.code(path, change, "-pytest-%s-%d" % (_version(), passes))
            if code is not None:
                self._rewritten_names[module.__name__] = rewrite.Path(path)
                exec(code, module.__dict__)
                return
        plain_exec(self, module)

    def visit(self, node):
        """Leaves the probes around an expression out of what a failure explains."""
        inner = getattr(node, "thrush_inner", None)
        if inner is None:
            return plain_visit(self, node)
        first = getattr(node, "thrush_first", None)
        if first is not None:
            # It comes before the expression, whose value goes on as it is.
            self.statements.append(rewrite.ast.Expr(first))
            return self.visit(inner)
        value, explanation = self.visit(inner)
        for field in node._fields:
            if getattr(node, field) is inner:
                setattr(node, field, value)
            elif isinstance(getattr(node, field), list):
                setattr(node, field, [value if v is inner else v for v in getattr(node, field)])
        return self.assign(node), explanation

    exec_module.__qualname__, exec_module.__module__ = plain_exec.__qualname__, plain_exec.__module__
    loader.exec_module, rewriter.visit = exec_module, visit


def _version():
    import _pytest

    return "".join(c if c.isalnum() or c == "." else "_" for c in _pytest.__version__)
