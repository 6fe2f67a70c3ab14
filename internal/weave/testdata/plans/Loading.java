import java.util.List;

class Loading {
    static final int MOST = limit();
    int cars;

    static { start(); }

    int load(List<Integer> list, boolean wet) {
        if (wet && cars > 20) return -1;
        else if (list.isEmpty()) { cars = 0; }
        for (int w : list) {
            if (w > 9) continue;
            cars += w;
        }
        outer:
        while (cars > 0) {
            for (int i = 0; i < 3; i++) {
                if (i == cars) break outer;
            }
            cars--;
        }
        do { cars++; } while (cars < 2 || wet);
        switch (cars) {
            case 1: cars = 2;
            case 2: cars = 3; break;
        }
        int fee = switch (cars) { case 3 -> 9; default -> { yield limit(); } };
        try (Hold h = new Hold(cars)) {
            h.check();
        } catch (RuntimeException e) {
            return 0;
        } finally {
            end();
        }
        Object o = list;
        if (o instanceof String s && s.isEmpty()) cars = s.length();
        list.forEach(x -> note(x));
        synchronized (this) { cars++; }
        return wet ? fee : cars;
    }
}
