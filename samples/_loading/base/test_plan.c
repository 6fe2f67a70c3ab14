#include <stdio.h>
#include "plan.h"

static int failed;

static void expect(const char *what, int got, int want)
{
	if (got == want)
		return;
	printf("%s: got %d, want %d\n", what, got, want);
	failed = 1;
}

int main(void)
{
	plan p = {0};
	vehicle car = {1400, 420, 0, 0}, lorry = {14000, 1200, 0, 1}, tanker = {9000, 900, 1, 0};

	expect("a car", plan_load(&p, &car), 0);
	expect("a lorry stands in the middle", plan_load(&p, &lorry), 1);
	expect("a second car", plan_load(&p, &car), 2);
	expect("dangerous goods by day", plan_load(&p, &tanker), REFUSED);
	expect("it leans", balance(&p), 3);
	expect("a second lorry", plan_load(&p, &lorry), 2);
	expect("it hardly leans", balance(&p), 0);
	expect("a third lorry", plan_load(&p, &lorry), TOO_HEAVY);
	puts(failed ? "not all is well" : "all is well");
	return failed;
}
