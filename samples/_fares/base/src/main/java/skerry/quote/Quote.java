package skerry.quote;

import java.util.ArrayList;
import java.util.List;
import skerry.fare.Band;
import skerry.fare.Fare;
import skerry.fare.Vehicle;

/** What a crossing costs a party. */
public class Quote {
    /** When a crossing leaves. */
    public enum Hour { DAY, DUSK, NIGHT }

    private static final Fare CROSSING = new Fare(1200);

    private final Hour hour;
    private final boolean springTide;
    private final List<Integer> parts = new ArrayList<>();

    public Quote(Hour hour) {
        this(hour, false);
    }

    public Quote(Hour hour, boolean springTide) {
        this.hour = hour;
        this.springTide = springTide;
    }

    public Quote passengers(int... ages) {
        Fare full = CROSSING.plus(surcharge());
        for (int age : ages) {
            parts.add(Band.of(age).of(full));
        }
        return this;
    }

    public Quote vehicle(Vehicle v) {
        parts.add(v.pence());
        if (Vehicle.weighed(v)) {
            parts.add(300);
        }
        return this;
    }

    /** What is added to a full fare, in pence. */
    int surcharge() {
        int night = switch (hour) {
            case DAY -> 0;
            case DUSK -> 150;
            case NIGHT -> {
                // Nobody lands on the outer skerries at night and spring tide.
                if (springTide) {
                    throw new IllegalStateException("no crossing at night and spring tide");
                }
                yield 400;
            }
        };
        return springTide ? night + 100 : night;
    }

    public Fare total() {
        int sum = parts.stream().mapToInt(part -> part).sum();
        return new Fare(parts.size() > 4 ? sum - sum / 10 : sum);
    }

    /** The old group fare; nothing asks for it any more. */
    int group(int heads) {
        return heads < 10 ? heads * CROSSING.pence() : heads * 900;
    }
}
