package skerry.fare;

/** What passengers pay by their age. */
public enum Band {
    INFANT(0), CHILD(50), ADULT(100), SENIOR(70);

    private final int percent;

    Band(int percent) {
        this.percent = percent;
    }

    /** The band for an age in years. */
    public static Band of(int age) {
        if (age < 0 || age > 130) {
            throw new IllegalArgumentException("no such age: " + age);
        }
        return age < 4 ? INFANT : age < 16 ? CHILD : age >= 67 ? SENIOR : ADULT;
    }

    /** The share of a full fare, in pence. */
    public int of(Fare fare) {
        return fare.pence() * percent / 100;
    }
}
