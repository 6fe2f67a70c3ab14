package skerry.tariff;

public final class Tariff {
    public static int pence(int age, boolean night) {
        if (age < 0) throw new IllegalArgumentException("age " + age);
        int base = age < 5 ? 0 : age < 16 ? 450 : 900;
        return night && base > 0 ? base + 150 : base;
    }
    static int unused() { return 1; }
}
