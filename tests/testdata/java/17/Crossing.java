package skerry;

import java.io.Closeable;
import java.util.*;
import java.util.function.*;

/** All of the language, as of Java 17. Each line says how often it ran: what begins on it first. */
public class Crossing {
    private static final int KNOTS = 12;
    private static final Map<String, Integer> PORTS = new TreeMap<>(); // 1
    static int calls;
    private final List<String> log = new ArrayList<>(); // 3
    private int draught = 2;

    static { // -
        PORTS.put("Tern", 1); // 1
        PORTS.put("Gull", 2); // 1
    }

    { // -
        log.add("built"); // 3
    }

    Crossing() { // 2
        this(KNOTS); // 2
        log.add("default"); // 2
    }

    Crossing(int knots) { // 3
        super(); // 3
        if (knots < 0) throw new IllegalArgumentException("astern"); // 3
        draught = knots; // 3
    }

    static class Refused extends Crossing {
        Refused(Object must) { // 2
            super(Objects.requireNonNull(must).hashCode() & 7); // 2
            calls++; // 1
        }
    }

    enum Tide {
        LOW(1) { // -
            @Override
            int depth() { // 1
                return 1; // 1
            }
        },
        HIGH(KNOTS > 3 ? 9 : 8);

        final int metres;

        Tide(int metres) { // 2
            this.metres = metres; // 2
        }

        int depth() { // 1
            return metres; // 1
        }
    }

    record Berth(String port, int number) {
        static int made;

        Berth { // 3
            if (number < 0) { // 3
                throw new IllegalArgumentException(); // 1
            }
            made++; // 2
        }

        Berth(String port) { // 1
            this(port, 7); // 1
        }

        String name() { // 1
            return port + number; // 1
        }
    }

    sealed interface Cargo permits Sheep, Peat {
        int DOZEN = Integer.parseInt("12");

        int weight();

        default boolean heavy() { // 2
            return weight() > DOZEN && draft() || this instanceof Peat p && p.wet(); // 2
        }

        private boolean draft() { // 1
            return true; // 1
        }

        static Cargo of(String s) { // 2
            return s.isEmpty() ? new Peat(true) : new Sheep(s.length()); // 2
        }
    }

    record Sheep(int head) implements Cargo {
        public int weight() { // 1
            return head * 40; // 1
        }
    }

    record Peat(boolean wet) implements Cargo {
        public int weight() { // 1
            return 5; // 1
        }
    }

    int loops(int n) { // 1
        int sum = 0; // 1
        outer: // -
        for (int i = 0; i < n; i++) { // 1
            for (;;) { // 4
                if (sum > 100) // 4
                    break outer; // 0
                else
                    break; // 4
            }
            int j = 0; // 4
            while (j < i) { // 4
                if (j++ == 1) // 5
                    continue outer; // 2
                sum += j; // 3
            }
            do // 2
                sum++; // 4
            while (sum % 2 == 1); // -
            for (int k : new int[] {1, 2}) sum += k; // 4
        }
        block: { // -
            if (sum > 0) break block; // 1
            sum = 0; // 0
        }
        return sum; // 1
    }

    @SuppressWarnings("fallthrough")
    static String choose(int n, Object o) { // 6
        String s; // -
        switch (n) { // 6
            case 0: // -
                s = "zero"; // 1
                break; // 1
            case 1: // -
            case 2: // -
                s = "few"; // 2
            case 3: // -
                s = "some"; // 3
                break; // 3
            default: // -
                s = "many"; // 2
        }
        switch (Tide.values()[n & 1]) { // 6
            case LOW -> s += "L"; // 3
            case HIGH -> { // -
                s += "H"; // 3
            }
        };
        s += switch (n) { // 6
            case 0, 1 -> "a"; // 2
            case 2 -> { // -
                String t = "b"; // 1
                yield t; // 1
            }
            default -> throw new IllegalStateException(s); // 3
        };
        if (!(o instanceof String str)) // 3
            return s; // 1
        else if (str.length() > 3 && !str.isBlank()) // 2
            return str; // 1
        return s + str; // 1
    }

    static int tried(int n) throws Exception { // 4
        try { // -
            if (n == 1) throw new IllegalStateException("one"); // 4
            if (n == 2) // 3
                throw new Exception("two"); // 1
            calls += 10 / n; // 2
            calls++; // 1
            return 1; // 1
        } catch (IllegalStateException | ClassCastException e) { // -
            return 2; // 1
        } catch (ArithmeticException e) { // -
            calls--; // 1
        } finally { // -
            calls += 100; // 4
        }
        return 3; // 1
    }

    static final boolean LIT = true, DARK = false;

    /** A compiler knows by constants, too, what is assigned where. */
    static int assigned(boolean a, int n) { // 4
        int one; // -
        if (a) one = 1; // 4
        else if (n > 3 || LIT) one = 2; // 3
        final int two; // -
        if (a && DARK || n < 0 && !LIT) return two; // 4
        two = 5; // 4
        int three; // -
        if (LIT && n > 1 && (three = n) > 2 || DARK | a && (three = 7) > 0) return one + two + three; // 4
        int four; // -
        if ((a ? false : (four = n) > 1) && n == 2) return four; // 2
        int five; // -
        while ((five = n) > 9 || n > 8 && (DARK || LIT)) n--; // 1
        return five; // 1
    }

    @SuppressWarnings("fallthrough")
    static int moored(int n) { // 3
        switch (n) { // 3
            case 0: { // -
                try { // -
                    return calls; // 1
                } finally { // -
                    calls--; // 1
                }
            }
            case 1: // -
                try { // -
                    calls += 2; // 1
                } finally { // -
                    calls--; // 1
                }
            case 2: // -
                return 5; // 2
        }
        return 6; // 0
    }

    static class Rope implements Closeable {
        static int closed;
        public void close() { closed++; } // 3
    }

    static int held(boolean snaps) { // 2
        try (Rope a = new Rope(); // 2
             Rope b = snaps ? null : new Rope()) { // -
            if (snaps) throw new IllegalStateException(); // 2
            synchronized (a) { // 1
                calls++; // 1
            }
        } catch (IllegalStateException e) { // -
            return 1; // 1
        }
        return 0; // 1
    }

    void lambdas() { // 1
        Function<Integer, Integer> twice = n -> n * 2; // 1
        Supplier<String> name = () -> here(); // 1
        Runnable note = () -> noted(); // 1
        Consumer<String> print = t -> log.add(t); // 1
        Supplier<Berth> berth = () -> new Berth("Gull"); // 1
        BinaryOperator<Integer> most = (a, b) -> { // 3
            if (a > b) return a; // 3
            return b; // 0
        };
        Function<String, Integer> length = String::length; // 1
        Comparator<String> byLength = Comparator.comparing(t -> // 4
            t.length()); // 4
        List<String> names = new ArrayList<>(List.of("Tern", "Skua", "Gannet")); // 1
        names.sort(byLength); // 1
        Runnable none = () -> { // 1
            calls = 1 / (calls - calls); // 1
            calls = 7; // 0
        };
        try { // -
            none.run(); // 1
            calls = 9; // 0
        } catch (ArithmeticException e) { } // -
        note.run(); // 1
        print.accept(name.get() + berth.get() + twice.apply(3) + length.apply("x")); // 1
        Arrays.asList(3, 1, 2, 0).stream().reduce(most); // 1
        new Object() { // 1
            int n = calls(); // 1
            int calls() { return calls; } // 1
            void run() { // 1
                log.add("anonymous"); // 1
            }
        }.run();
        class Local { // -
            int n() { // 1
                return log.size(); // 1
            }
        }
        new Local().n(); // 1
        var text = """
            three "" lines
            \u0041 of text \""" here
            """;
        assert text.length() > 3 && calls > -9 : "short"; // 1
        int a = 1, b = a + 1; // 1
        a = b = 3; // 1
        ; // -
    }

    String here() { // 1
        return "here"; // 1
    }

    void noted() { // 1
        log.add("noted"); // 1
    }

    @SuppressWarnings({"unchecked", "rawtypes"})
    static <T extends Comparable<T>> T most(List<? extends T> of) { // 1
        final T first; // -
        T out = null; // 1
        for (T t : of) // 1
            if (out == null || t.compareTo(out) > 0) out = t; // 3
        boolean any; // -
        if (out != null && (any = of.size() > 1) && any) first = out; // 1
        else first = null; // 0
        while (PORTS.size() > 99) { // 1
            calls++; // 0
        }
        if (KNOTS > 99) calls++; // 1
        for (; ; ) { // 1
            return first; // 1
        }
    }

    static int never(int n) { // 0
        return n; // 0
    }

    public static void main(String[] args) throws Exception { // 1
        Crossing c = new Crossing(); // 1
        c.loops(4); // 1
        try { new Refused(null); } catch (NullPointerException e) { } // 1
        new Refused("x").lambdas0(new Crossing()); // 1
        for (int n = 0; n < 6; n++) // 1
            try { // -
                choose(n, n == 0 ? 5 : n == 1 ? "skerries" : n == 2 ? "x" : null); // 6
            } catch (IllegalStateException e) { } // -
        for (int n = 0; n < 3; n++) moored(n); // 3
        for (int n = 0; n < 4; n++) try { tried(n); } catch (Exception e) { } // 4
        assigned(true, 3); // 1
        for (int n : new int[] {5, 2, 1}) assigned(false, n); // 3
        held(false); // 1
        held(true); // 1
        for (Tide t : Tide.values()) t.depth(); // 2
        new Berth("Tern", 3).name(); // 1
        try { // -
            new Berth("Tern", -1); // 1
        } catch (IllegalArgumentException e) { } // -
        Cargo.of("").heavy(); // 1
        Cargo.of("ewe").heavy(); // 1
        most(List.of(1, 3, 2)); // 1
    }

    void lambdas0(Crossing other) { // 1
        other.lambdas(); // 1
    }
}
