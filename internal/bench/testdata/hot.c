/* Loops that spend their time in their own code, one for each number. */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define N 20000
static uint32_t lane[N];
static char text[N * 8];

static void fill(void)
{
	uint32_t x = 12345;
	for (int i = 0; i < N; i++) {
		x = x * 1103515245u + 12345u;
		lane[i] = x >> 8;
	}
	for (size_t i = 0; i < sizeof text; i++)
		text[i] = "the ferry leaves at night, 17 tons: {[()]}\n"[(lane[i % N] + i) % 43];
}

static uint32_t checksum(void)
{
	uint32_t table[256], crc = ~0u;
	for (uint32_t i = 0; i < 256; i++) {
		uint32_t c = i;
		for (int k = 0; k < 8; k++)
			c = c & 1 ? 0xedb88320u ^ c >> 1 : c >> 1;
		table[i] = c;
	}
	for (size_t i = 0; i < sizeof text; i++)
		crc = table[(crc ^ (uint8_t)text[i]) & 0xff] ^ crc >> 8;
	return crc;
}

static int lower(const void *a, const void *b)
{
	uint32_t x = *(const uint32_t *)a, y = *(const uint32_t *)b;
	return x < y ? -1 : x > y;
}

static uint32_t sorting(void)
{
	static uint32_t copy[N];
	memcpy(copy, lane, sizeof copy);
	qsort(copy, N, sizeof *copy, lower);
	return copy[N / 2];
}

static void shell(uint32_t *a, int n)
{
	for (int gap = n / 2; gap > 0; gap /= 2)
		for (int i = gap; i < n; i++) {
			uint32_t v = a[i];
			int j = i;
			for (; j >= gap && a[j - gap] > v; j -= gap)
				a[j] = a[j - gap];
			a[j] = v;
		}
}

static uint32_t gaps(void)
{
	static uint32_t copy[N];
	memcpy(copy, lane, sizeof copy);
	shell(copy, N);
	return copy[N / 3];
}

static uint32_t sieve(void)
{
	static uint8_t out[N * 8];
	uint32_t n = 0;
	memset(out, 0, sizeof out);
	for (uint32_t i = 2; i < sizeof out; i++) {
		if (out[i])
			continue;
		n++;
		for (uint32_t j = 2 * i; j < sizeof out; j += i)
			out[j] = 1;
	}
	return n;
}

static uint32_t hashing(void)
{
	static uint32_t slots[1 << 16];
	uint32_t met = 0;
	memset(slots, 0, sizeof slots);
	for (int i = 0; i < N; i++) {
		uint32_t h = lane[i] * 2654435761u >> 16;
		while (slots[h] && slots[h] != lane[i])
			h = (h + 1) & 0xffff;
		if (slots[h])
			met++;
		slots[h] = lane[i];
	}
	return met;
}

static uint32_t words(void)
{
	uint32_t n = 0, lines = 0, digits = 0, depth = 0, most = 0;
	int in = 0;
	for (size_t i = 0; i < sizeof text; i++) {
		char c = text[i];
		switch (c) {
		case '\n': lines++; in = 0; break;
		case ' ': case ',': case ':': in = 0; break;
		case '(': case '[': case '{': if (++depth > most) most = depth; break;
		case ')': case ']': case '}': if (depth > 0) depth--; break;
		default:
			if (c >= '0' && c <= '9')
				digits++;
			else if (!in && c >= 'a' && c <= 'z') {
				in = 1;
				n++;
			}
		}
	}
	return n + lines + digits + most;
}

static uint32_t product(void)
{
	enum { M = 64 };
	static double a[M][M], b[M][M], c[M][M];
	for (int i = 0; i < M; i++)
		for (int j = 0; j < M; j++) {
			a[i][j] = lane[i * M + j] % 100;
			b[i][j] = lane[j * M + i] % 100;
		}
	for (int i = 0; i < M; i++)
		for (int j = 0; j < M; j++) {
			double sum = 0;
			for (int k = 0; k < M; k++)
				sum += a[i][k] * b[k][j];
			c[i][j] = sum;
		}
	return (uint32_t)c[3][5];
}

struct node { uint32_t key; struct node *left, *right; };

static uint32_t trees(void)
{
	static struct node pool[N];
	struct node *root = 0;
	uint32_t deep = 0;
	for (int i = 0; i < N / 4; i++) {
		struct node **at = &root, *n = &pool[i];
		uint32_t depth = 0;
		n->key = lane[i];
		n->left = n->right = 0;
		while (*at) {
			at = n->key < (*at)->key ? &(*at)->left : &(*at)->right;
			depth++;
		}
		*at = n;
		if (depth > deep)
			deep = depth;
	}
	return deep;
}

static uint32_t distance(void)
{
	enum { L = 400 };
	static int row[L + 1];
	for (int j = 0; j <= L; j++)
		row[j] = j;
	for (int i = 1; i <= L; i++) {
		int diagonal = row[0];
		row[0] = i;
		for (int j = 1; j <= L; j++) {
			int up = row[j], best = diagonal + (text[i] != text[2000 + j]);
			if (up + 1 < best)
				best = up + 1;
			if (row[j - 1] + 1 < best)
				best = row[j - 1] + 1;
			diagonal = up;
			row[j] = best;
		}
	}
	return (uint32_t)row[L];
}

static uint32_t (*const loops[])(void) = { checksum, sorting, gaps, sieve, hashing, words, product, trees, distance };

int main(int argc, char **argv)
{
	int which = argc > 1 ? atoi(argv[1]) : 0, times = argc > 2 ? atoi(argv[2]) : 1;
	uint32_t sum = 0;
	fill();
	while (times-- > 0)
		sum += loops[which]();
	printf("%u\n", sum);
	return 0;
}
