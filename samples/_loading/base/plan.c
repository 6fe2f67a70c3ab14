#include "plan.h"

#define OUTER(lane) ((lane) == 0 || (lane) == LANES - 1)

/* Dangerous goods travel at night, alone, and never beside a tall vehicle. */
static int refused(const plan *p, const vehicle *v)
{
	if (v->dangerous && (!p->night || p->dangerous || v->tall))
		return 1;
	return v->cm > 1800 && !v->tall;
}

static int fits(const plan *p, const vehicle *v, int lane)
{
	if (p->cm[lane] + v->cm > 6000)
		return 0;
	/* Heavy ones stand in the middle. */
	if (v->kg > 12000 && OUTER(lane))
		return 0;
	return p->kg[lane] + v->kg <= LANE_KG;
}

int plan_load(plan *p, const vehicle *v)
{
	int best = NO_ROOM;

	if (plan_total(p) + v->kg > MOST_KG)
		return TOO_HEAVY;
	if (refused(p, v))
		return REFUSED;
	for (int lane = 0; lane < LANES; lane++) {
		if (!fits(p, v, lane))
			continue;
		if (best == NO_ROOM || p->kg[lane] < p->kg[best])
			best = lane;
	}
	switch (best) {
	case NO_ROOM:
		return best;
	case 0:
	case LANES - 1:
		if (v->dangerous)
			return REFUSED;
		/* fall through */
	default:
		p->kg[best] += v->kg;
		p->cm[best] += v->cm;
	}
	p->dangerous |= v->dangerous;
	return best;
}

/* What the pier calls out; nobody calls it any more. */
const char *plan_word(int lane)
{
	return lane == TOO_HEAVY ? "too heavy" : lane == NO_ROOM ? "no room" : "refused";
}
