#include <vector>
constexpr int weight(int n) {
	for (int i = 0; i < n; i++)
		if (i == 7)
			break;
	return n;
}
struct Deck {
	int cars = 0;
	int load(const std::vector<int> &list) {
		try {
			for (int w : list) {
				Guard hold(w);
				if (w > 9)
					continue;
				cars += w;
			}
		} catch (const Full &e) {
			return -1;
		}
		auto light = [this](int w) { return w < 3 && cars > 0; };
		switch (int n = cars; n) {
		case 1: {
			return light(n);
		}
		default:
			return weight(n);
		}
	}
};
