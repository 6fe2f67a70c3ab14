int load(int cars, int lorries, int wet) {
	if (wet && cars > 20)
		return -1;
	else if (lorries)
		cars += 3;
	while (cars > 0) {
		cars--;
		if (check(cars))
			break;
	}
	do {
		lorries--;
	} while (lorries > 0 || wet);
	for (int i = 0; i < 4; i++)
		place(i);
	switch (cars) {
	case 1:
		wet = 0;
	case 2:
		wet = 1;
		break;
	}
	int best = cars > 2 ? cars : 2;
retry:
	if (wet-- > 9)
		goto retry;
	return best && lorries;
}
