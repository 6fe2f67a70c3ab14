package skerry.fare;

/** A full fare. */
public record Fare(int pence) {
    public Fare {
        if (pence < 0) {
            throw new IllegalArgumentException("a fare of " + pence);
        }
    }

    public Fare plus(int more) {
        return new Fare(pence + more);
    }

    @Override
    public String toString() {
        return "£%d.%02d".formatted(pence / 100, pence % 100);
    }
}
