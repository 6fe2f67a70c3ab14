package skerry;

import java.io.Closeable;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;

/** What Java 7 has, which knows no lambda expressions and sees less of what type things are. */
public class Skiff {
    static int calls;
    final String name;
    final List<String> crew;

    Skiff(String name) { // 3
        this(name, Collections.<String>emptyList()); // 3
    }

    Skiff(String name, List<String> crew) { // 5
        this.name = name; // 5
        this.crew = crew; // 5
    }

    static class Unnamed extends Skiff {
        Unnamed() { // 1
            super(null); // 1
        }

        Unnamed(List<String> crew) { // 2
            super(null, crew); // 2
            if (crew.isEmpty()) throw new IllegalArgumentException("nobody"); // 2
            calls++; // 1
        }
    }

    // Nothing falls through here but labels that have the same place.
    static int oars(int seats) { // 4
        switch (seats) { // 4
            case 0: // -
            case 1: // -
                return 1; // 1
            case 2: // -
            case 3: // -
            case 4: // -
                calls++; // 2
                break; // 2
        }
        return seats; // 3
    }

    @SuppressWarnings("rawtypes")
    static List rows(String word) { // 2
        List out = null; // 2
        switch (word) { // 2
            case "fore": // -
            case "aft": // -
                out = new ArrayList(); // 1
                break; // 1
            case "keel": // -
                calls += 2; // 1
        }
        return out; // 2
    }

    @SuppressWarnings({"rawtypes", "unchecked"})
    static List both(int n) { // 1
        List out = new ArrayList(); // 1
        switch (n) { // 1
            case 1: case 2: // -
                out.add(n); // 1
        }
        return out; // 1
    }

    @SuppressWarnings(value = {})
    static Object inside(final int n) { // 1
        return new Object() { // 1
            final int deep = n; // 1
            int found; // -
            { // -
                switch (deep) { // 1
                    case 3: case 4: // -
                        found = 4; // 1
                        break; // 1
                    default: // -
                        found = 5; // 0
                }
            }

            @Override
            public String toString() { // 1
                switch (found) { // 1
                    case 4: case 5: // -
                        return "found"; // 1
                    default: // -
                        return "lost"; // 0
                }
            }
        };
    }

    enum Wind {
        CALM { // -
            @Override
            int force(int n) { // 1
                switch (n) { // 1
                    case 0: case 1: // -
                        return 0; // 1
                }
                return 1; // 0
            }
        };

        abstract int force(int n);
    }

    static class Rope implements Closeable {
        @Override
        public void close() { // 1
            calls++; // 1
        }
    }

    public static void main(String[] args) throws Exception { // 1
        List<Skiff> all = Arrays.asList(new Skiff("Tern"), new Skiff("Gull"), new Unnamed(), new Unnamed(Arrays.asList("Ann"))); // 1
        try { // -
            all.add(new Unnamed(new ArrayList<String>())); // 1
        } catch (IllegalArgumentException | IllegalStateException e) { // -
            calls++; // 1
        }
        for (int seats : new int[] {1, 2, 4, 7}) oars(seats); // 4
        if (rows("aft") == null || rows("keel") != null) throw new AssertionError(); // 1
        if (both(2).size() != 1 || Wind.CALM.force(1) != 0) throw new AssertionError(); // 1
        try (Rope r = new Rope()) { // 1
            if (!inside(3).toString().equals("found")) throw new AssertionError(); // 1
        }
        System.out.println(calls); // 1
    }
}
