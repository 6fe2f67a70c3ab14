#ifndef PLAN_H
#define PLAN_H

/* Loading plans of the Skerry ferries: which vehicle stands in which lane. */

enum { LANES = 4, MOST_KG = 42000, LANE_KG = 16000 };

typedef struct {
	int kg;
	int cm;        /* length */
	int dangerous; /* carries dangerous goods */
	int tall;
} vehicle;

typedef struct {
	int kg[LANES];
	int cm[LANES];
	int dangerous; /* one is on board */
	int night;
} plan;

enum { NO_ROOM = -1, TOO_HEAVY = -2, REFUSED = -3 };

/* Gives the lane, or why there is none. */
int plan_load(plan *p, const vehicle *v);

static inline int plan_total(const plan *p)
{
	int total = 0;
	for (int i = 0; i < LANES; i++)
		total += p->kg[i];
	return total;
}

#ifdef __cplusplus
extern "C"
#endif
int balance(const plan *p);

#endif
