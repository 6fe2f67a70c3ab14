// A program without a class of its own, and what came to the language after Java 17.
import module java.base;

int calls;
final List<String> log = new ArrayList<>();

sealed interface Load permits Crate, Tank, Pair {}

record Crate(int kilos) implements Load {}

record Tank(String of, double litres) implements Load {}

record Pair<T extends Load>(T left, T right) implements Load {}

static class Weighed {
    final int kilos;

    Weighed(int kilos) { // 3
        if (kilos < 0) // 3
            throw new IllegalArgumentException(); // 1
        this.kilos = kilos; // 2
        super(); // 2
    }

    Weighed(String text) { // 1
        var kilos = Integer.parseInt(text); // 1
        this(kilos); // 1
    }
}

static class Berths {
    /** Which are taken, until noon. */
    static final boolean[] TAKEN = new boolean[2]; // 1

    /**
     * What they are called.
     */
    // From the pier on.
    final String[] names = {"Tern", "Gull"}; // 1
}

String told(Object o) { // 9
    return switch (o) { // 9
        case Crate(int kilos) when kilos > 100 && calls < 9 -> "heavy"; // 1
        case Crate(var kilos) -> "crate " + kilos; // 1
        case Tank(String of, _) when of.equals("oil") -> { // -
            calls++; // 1
            yield "oil"; // 1
        }
        case Tank _ -> "tank"; // 1
        case Pair(Crate(var a), Crate _) -> "pair " + a; // 1
        case Pair(_, _) -> "odd pair"; // 1
        case String s when s.length() > 1 || s.isEmpty() -> s; // 1
        case null, default -> "nothing"; // 2
    };
}

int weight(Load load) { // 3
    int out = 0; // 3
    switch (load) { // 3
        case Crate c: // -
            out = c.kilos(); // 1
            break; // 1
        case Tank t: // -
            out = (int) t.litres(); // 1
            break; // 1
        case Pair<?> p: // -
            out = weight(p.left()); // 1
    }
    if (load instanceof Crate(int kilos) && kilos > 5) out++; // 3
    while (!(load instanceof Pair<?>(var left, _))) { // 3
        return out; // 2
    }
    return out + (left instanceof Crate c && c.kilos() > 1 ? 100 : 0); // 1
}

void main() { // 1
    new Weighed(5); // 1
    new Weighed("6"); // 1
    try { // -
        new Weighed(-1); // 1
    } catch (IllegalArgumentException _) { // -
        log.add("refused"); // 1
    }
    if (new Berths().names.length != Berths.TAKEN.length) throw new AssertionError(); // 1
    for (Object o : new Object[] {null, 5, new Crate(500), new Crate(2), new Tank("oil", 1), new Tank("tea", 1), // 1
            new Pair<>(new Crate(1), new Crate(2)), new Pair<>(new Tank("", 0), new Crate(2)), "sheep"}) // -
        log.add(told(o)); // 9
    weight(new Tank("tea", 2)); // 1
    weight(new Pair<Load>(new Crate(3), new Tank("", 1))); // 1
    UnaryOperator<String> same = _ -> "same"; // 1
    same.apply(""); // 1
    IO.println(log); // 1
}

interface Moored {
    /**
     * Lets go.
     */
    /* void cast(); */
}
