import java.util.Map;
import java.util.function.ToLongFunction;

/** Times a loop after it has been compiled: java Run LOOP TIMES. */
class Run {
	static volatile long kept;

	public static void main(String[] args) {
		int[] data = new int[4000];
		for (int i = 0, x = 12345; i < data.length; i++) {
			x = x * 1103515245 + 12345 & 0x7fffffff;
			data[i] = x >> 8;
		}
		Map<String, ToLongFunction<int[]>> loops = Map.of("checksum", Hot::checksum, "shell_sort", Hot::shellSort, "sieve", Hot::sieve, "words", Hot::words,
			"matrix", Hot::matrix, "trees", Hot::trees, "distance", Hot::distance, "tokens", Hot::tokens);
		ToLongFunction<int[]> loop = loops.get(args[0]);
		int times = Integer.parseInt(args[1]);
		for (long until = System.nanoTime() + (times == 0 ? 0 : 700_000_000L); System.nanoTime() < until; ) kept = loop.applyAsLong(data);
		long start = System.nanoTime();
		for (int i = 0; i < times; i++) kept = loop.applyAsLong(data);
		System.out.println((System.nanoTime() - start) / 1e9);
	}
}
