import com.sun.source.tree.*;
import com.sun.source.util.*;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.*;
import java.util.*;
import java.util.stream.Collectors;
import javax.tools.*;

/**
 * Puts a call before every statement, and around every condition that allows it, of all the
 * Java files in a folder, by the compiler's own parser. It knows nothing of Thrush.
 *
 * Usage: java Witness.java SOURCES PLACES. The list of places has, for each number, the file,
 * the line, the column and the kind of what is counted by it.
 */
public class Witness {
    private final List<String> places = new ArrayList<>();

    public static void main(String[] args) throws IOException {
        Path root = Path.of(args[0]);
        Witness w = new Witness();
        List<Path> files;
        try (var walk = Files.walk(root)) {
            files = walk.filter(p -> p.toString().endsWith(".java") && !p.endsWith("module-info.java") && !p.endsWith("package-info.java")).sorted().collect(Collectors.toList());
        }
        for (Path file : files) {
            w.file(root, file);
        }
        Path counting = Files.createDirectories(root.resolve("witness")).resolve("Seen.java");
        Files.writeString(counting, SEEN.replace("SIZE", "" + (w.places.size() + 1)));
        Files.write(Path.of(args[1]), w.places);
    }

    private static final String SEEN = "package witness;\n"
        + "public final class Seen {\n"
        + "    private static final java.util.concurrent.atomic.AtomicLongArray seen = new java.util.concurrent.atomic.AtomicLongArray(SIZE);\n"
        + "    static { Runtime.getRuntime().addShutdownHook(new Thread(Seen::save)); }\n"
        + "    public static void hit(int n) { seen.incrementAndGet(n); }\n"
        + "    public static boolean is(int n, boolean value) { seen.incrementAndGet(value ? n : n + 1); return value; }\n"
        + "    private static void save() {\n"
        + "        StringBuilder out = new StringBuilder();\n"
        + "        for (int i = 0; i < SIZE; i++) if (seen.get(i) > 0) out.append(i).append(' ').append(seen.get(i)).append('\\n');\n"
        + "        try (java.io.FileWriter to = new java.io.FileWriter(System.getenv(\"SEEN\") + System.nanoTime())) { to.write(out.toString()); } catch (java.io.IOException e) { throw new RuntimeException(e); }\n"
        + "    }\n"
        + "}\n";

    private void file(Path root, Path file) throws IOException {
        JavaCompiler compiler = ToolProvider.getSystemJavaCompiler();
        var manager = compiler.getStandardFileManager(null, null, StandardCharsets.UTF_8);
        JavacTask task = (JavacTask) compiler.getTask(null, manager, d -> { }, List.of("-proc:none"), null, manager.getJavaFileObjects(file));
        String source = Files.readString(file);
        SourcePositions positions = Trees.instance(task).getSourcePositions();
        TreeMap<Integer, String> before = new TreeMap<>(), after = new TreeMap<>();
        for (CompilationUnitTree unit : task.parse()) {
            new Scanner(unit, positions, source, root.relativize(file).toString(), before, after).scan(unit, null);
        }
        StringBuilder out = new StringBuilder();
        for (int i = 0; i <= source.length(); i++) {
            out.append(after.getOrDefault(i, "")).append(before.getOrDefault(i, ""));
            if (i < source.length()) {
                out.append(source.charAt(i));
            }
        }
        Files.writeString(file, out);
    }

    private class Scanner extends TreeScanner<Void, Void> {
        private final CompilationUnitTree unit;
        private final SourcePositions positions;
        private final String source, name;
        private final Map<Integer, String> before, after;

        Scanner(CompilationUnitTree unit, SourcePositions positions, String source, String name, Map<Integer, String> before, Map<Integer, String> after) {
            this.unit = unit;
            this.positions = positions;
            this.source = source;
            this.name = name;
            this.before = before;
            this.after = after;
        }

        private int from(Tree t) { return (int) positions.getStartPosition(unit, t); }

        private int to(Tree t) { return (int) positions.getEndPosition(unit, t); }

        private int place(Tree t, String kind) {
            LineMap lines = unit.getLineMap();
            int at = from(t);
            while (t instanceof VariableTree && source.charAt(at) == '@') {
                return -1;
            }
            long line = lines.getLineNumber(at);
            String text = source.substring((int) lines.getStartPosition(line), at);
            places.add(name + "\t" + line + "\t" + (text.getBytes(StandardCharsets.UTF_8).length + 1) + "\t" + kind);
            return places.size() - 1;
        }

        private void list(List<? extends StatementTree> statements) {
            for (StatementTree s : statements) {
                if (counts(s)) {
                    int n = place(s, "statement");
                    if (n >= 0) {
                        before.merge(from(s), "witness.Seen.hit(" + n + ");", (a, b) -> b + a);
                    }
                }
            }
        }

        private boolean counts(StatementTree s) {
            switch (s.getKind()) {
                case BLOCK: case EMPTY_STATEMENT: case CLASS: case ENUM: case INTERFACE: case RECORD: case LABELED_STATEMENT:
                    return false;
                case TRY:
                    return !((TryTree) s).getResources().isEmpty();
                case VARIABLE:
                    // Of several that are declared at once, there is a statement for each.
                    VariableTree v = (VariableTree) s;
                    return v.getInitializer() != null && source.charAt(from(s) - 1) != ',' && from(v.getType() == null ? s : v.getType()) >= from(s) && unbroken(v);
                case EXPRESSION_STATEMENT:
                    String text = source.substring(from(s), to(s));
                    return !text.startsWith("super(") && !text.startsWith("this(");
                default:
                    return true;
            }
        }

        /** Tells whether no other variable is declared by the same statement. */
        private boolean unbroken(VariableTree v) {
            String rest = source.substring(from(v), from(v.getInitializer()));
            return rest.indexOf(',') < 0 || rest.indexOf('<') >= 0;
        }

        private void bare(StatementTree s) {
            if (s == null || s.getKind() == Tree.Kind.BLOCK || s.getKind() == Tree.Kind.EMPTY_STATEMENT) {
                return;
            }
            String open = "{";
            if (counts(s)) {
                open += "witness.Seen.hit(" + place(s, "statement") + ");";
            }
            before.merge(from(s), open, (a, b) -> b + a);
            after.merge(to(s), "}", (a, b) -> a + b);
        }

        private void condition(Tree whole, ExpressionTree cond) {
            boolean[] odd = {cond == null};
            if (cond != null) {
                new TreeScanner<Void, Void>() {
                    @Override public Void visitAssignment(AssignmentTree t, Void p) { odd[0] = true; return null; }
                    @Override public Void visitInstanceOf(InstanceOfTree t, Void p) { odd[0] |= t.getPattern() != null; return super.visitInstanceOf(t, p); }
                }.scan(cond, null);
                String text = source.substring(from(cond), to(cond));
                odd[0] |= text.matches("\\(?\\s*([A-Z_.]+|true|false)\\s*\\)?");
            }
            if (odd[0]) {
                return;
            }
            int n = place(whole, "true");
            place(whole, "false");
            before.merge(from(cond), "witness.Seen.is(" + n + ",", (a, b) -> a + b);
            after.merge(to(cond), ")", (a, b) -> b + a);
        }

        private ExpressionTree bared(ExpressionTree cond) {
            return cond instanceof ParenthesizedTree ? ((ParenthesizedTree) cond).getExpression() : cond;
        }

        @Override public Void visitBlock(BlockTree t, Void p) { list(t.getStatements()); return super.visitBlock(t, p); }

        @Override public Void visitCase(CaseTree t, Void p) {
            if (t.getStatements() != null) {
                list(t.getStatements());
            }
            return super.visitCase(t, p);
        }

        @Override public Void visitIf(IfTree t, Void p) {
            condition(t, bared(t.getCondition()));
            bare(t.getThenStatement());
            bare(t.getElseStatement());
            return super.visitIf(t, p);
        }

        @Override public Void visitWhileLoop(WhileLoopTree t, Void p) {
            condition(t, bared(t.getCondition()));
            bare(t.getStatement());
            return super.visitWhileLoop(t, p);
        }

        @Override public Void visitDoWhileLoop(DoWhileLoopTree t, Void p) {
            condition(t, bared(t.getCondition()));
            bare(t.getStatement());
            return super.visitDoWhileLoop(t, p);
        }

        @Override public Void visitForLoop(ForLoopTree t, Void p) {
            condition(t, t.getCondition());
            bare(t.getStatement());
            return super.visitForLoop(t, p);
        }

        @Override public Void visitEnhancedForLoop(EnhancedForLoopTree t, Void p) { bare(t.getStatement()); return super.visitEnhancedForLoop(t, p); }

        @Override public Void visitConditionalExpression(ConditionalExpressionTree t, Void p) {
            condition(t, bared(t.getCondition()));
            return super.visitConditionalExpression(t, p);
        }
    }
}
