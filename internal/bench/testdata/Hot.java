import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** Hot loops, timed by Run. */
class Hot {
	static long checksum(int[] data) {
		int a = 1, b = 0;
		for (int i = 0; i < data.length; i++) {
			a += data[i] & 0xffff;
			if (a >= 65521) a %= 65521;
			b += a;
			if (b >= 65521) b %= 65521;
		}
		return b * 65536L + a;
	}

	static long shellSort(int[] data) {
		int[] a = data.clone();
		for (int gap = a.length >> 1; gap > 0; gap >>= 1) {
			for (int i = gap; i < a.length; i++) {
				int x = a[i];
				int j = i;
				while (j >= gap && a[j - gap] > x) {
					a[j] = a[j - gap];
					j -= gap;
				}
				a[j] = x;
			}
		}
		return a[0];
	}

	static long sieve(int[] data) {
		int n = data.length * 4;
		boolean[] prime = new boolean[n];
		Arrays.fill(prime, true);
		int count = 0;
		for (int i = 2; i < n; i++) {
			if (prime[i]) {
				count++;
				for (long j = (long) i * i; j < n; j += i) prime[(int) j] = false;
			}
		}
		return count;
	}

	static long words(int[] data) {
		Map<String, Integer> counts = new HashMap<>();
		for (int x : data) {
			String word = "w" + (x % 97);
			if (counts.containsKey(word)) counts.put(word, counts.get(word) + 1);
			else counts.put(word, 1);
		}
		return Collections.max(counts.values());
	}

	static long matrix(int[] data) {
		int n = 24;
		int[][] a = new int[n][n];
		for (int i = 0; i < n; i++) {
			for (int j = 0; j < n; j++) a[i][j] = data[(i * n + j) % data.length] & 1023;
		}
		int out = 0;
		for (int i = 0; i < n; i++) {
			for (int j = 0; j < n; j++) {
				int s = 0;
				for (int k = 0; k < n; k++) s += a[i][k] * a[k][j];
				out ^= s;
			}
		}
		return out;
	}

	static class Node {
		final int key;
		Node left, right;

		Node(int key) {
			this.key = key;
		}

		void add(int key) {
			if (key < this.key) {
				if (left == null) left = new Node(key);
				else left.add(key);
			} else if (key > this.key) {
				if (right == null) right = new Node(key);
				else right.add(key);
			}
		}
	}

	static long trees(int[] data) {
		Node root = new Node(data[0]);
		for (int i = 0; i < 1000; i++) root.add(data[i]);
		return root.key;
	}

	static long distance(int[] data) {
		int[] a = Arrays.copyOfRange(data, 0, 90), b = Arrays.copyOfRange(data, 90, 180);
		int[] row = new int[b.length + 1];
		for (int j = 0; j < row.length; j++) row[j] = j;
		for (int i = 0; i < a.length; i++) {
			int last = row[0];
			row[0] = i + 1;
			for (int j = 0; j < b.length; j++) {
				int cost = a[i] == b[j] ? last : 1 + Math.min(last, Math.min(row[j], row[j + 1]));
				last = row[j + 1];
				row[j + 1] = cost;
			}
		}
		return row[row.length - 1];
	}

	static boolean digit(char c) {
		return c >= '0' && c <= '9';
	}

	static long tokens(int[] data) {
		StringBuilder all = new StringBuilder();
		for (int i = 0; i < 600; i++) all.append(data[i]).append(' ');
		String text = all + "\"a b\" (c)";
		List<Object> out = new ArrayList<>();
		for (int i = 0; i < text.length(); ) {
			char c = text.charAt(i);
			if (c == ' ') {
				i++;
			} else if (digit(c)) {
				int j = i;
				while (j < text.length() && digit(text.charAt(j))) j++;
				out.add(Integer.parseInt(text.substring(i, j)));
				i = j;
			} else if (c == '"' || c == '\'') {
				int j = text.indexOf(c, i + 1);
				out.add(text.substring(i + 1, j));
				i = j + 1;
			} else {
				out.add(c);
				i++;
			}
		}
		return out.size();
	}
}
