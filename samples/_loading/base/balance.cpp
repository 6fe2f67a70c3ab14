#include "plan.h"

namespace {

template <typename T>
T distance(T a, T b) { return a > b ? a - b : b - a; }

}

// How far the ferry leans, from 0 to 3.
int balance(const plan *p)
{
	int port = p->kg[0] + p->kg[1], starboard = p->kg[2] + p->kg[3];
	auto heavy = [&](int side) { return side * 2 > MOST_KG && !p->night; };
	int off = distance(port, starboard);
	if (off > 9000 || heavy(port) || heavy(starboard))
		return 3;
	if (off > 4000)
		return 2;
	return off > 1000;
}
