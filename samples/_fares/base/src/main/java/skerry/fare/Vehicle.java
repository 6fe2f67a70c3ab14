package skerry.fare;

/** What comes aboard on wheels. */
public sealed interface Vehicle {
    /** A vehicle that pays by its length, in centimetres. */
    record Car(int length, boolean trailer) implements Vehicle { }

    record Van(int length, int height) implements Vehicle { }

    record Bicycle(boolean electric) implements Vehicle { }

    /** What it pays, in pence. */
    default int pence() {
        if (this instanceof Bicycle bicycle) {
            return bicycle.electric() ? 250 : 150;
        }
        if (this instanceof Van van && van.height() > 240) {
            return 400 + 8 * van.length();
        }
        int length = this instanceof Car car ? car.length() : ((Van) this).length();
        return 200 + 5 * length;
    }

    /** Whether it must be weighed before it is loaded. */
    static boolean weighed(Vehicle v) {
        return v instanceof Van van && (van.length() > 700 || van.height() > 300) || v instanceof Car car && car.trailer();
    }
}
