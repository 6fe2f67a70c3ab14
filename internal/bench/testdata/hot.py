"""Hot loops, timed by themselves: python3 run.py LOOP TIMES."""


def checksum(data):
    a, b = 1, 0
    for x in data:
        a += x
        if a >= 65521:
            a -= 65521
        b += a
        if b >= 65521:
            b %= 65521
    return b << 16 | a


def shell_sort(data):
    a = list(data)
    gap = len(a) // 2
    while gap > 0:
        for i in range(gap, len(a)):
            x, j = a[i], i
            while j >= gap and a[j - gap] > x:
                a[j] = a[j - gap]
                j -= gap
            a[j] = x
        gap //= 2
    return a[0]


def sieve(data):
    n = len(data) * 4
    prime = [True] * n
    count = 0
    for i in range(2, n):
        if prime[i]:
            count += 1
            for j in range(i * i, n, i):
                prime[j] = False
    return count


def words(data):
    counts = {}
    for x in data:
        word = "w%d" % (x % 97)
        if word in counts:
            counts[word] += 1
        else:
            counts[word] = 1
    return max(counts.values())


def matrix(data):
    n = 24
    a = [[data[(i * n + j) % len(data)] for j in range(n)] for i in range(n)]
    out = 0
    for i in range(n):
        for j in range(n):
            s = 0
            for k in range(n):
                s += a[i][k] * a[k][j]
            out ^= s
    return out


class Node:
    __slots__ = ("key", "left", "right")

    def __init__(self, key):
        self.key, self.left, self.right = key, None, None

    def add(self, key):
        if key < self.key:
            if self.left is None:
                self.left = Node(key)
            else:
                self.left.add(key)
        elif key > self.key:
            if self.right is None:
                self.right = Node(key)
            else:
                self.right.add(key)


def trees(data):
    root = Node(data[0])
    for x in data[:1000]:
        root.add(x)
    return root.key


def distance(data):
    a, b = data[:90], data[90:180]
    row = list(range(len(b) + 1))
    for i, x in enumerate(a):
        last, row[0] = row[0], i + 1
        for j, y in enumerate(b):
            cost = last if x == y else 1 + min(last, row[j], row[j + 1])
            last, row[j + 1] = row[j + 1], cost
    return row[-1]


def tokens(data):
    text = " ".join(str(x) for x in data[:600]) + ' "a b" (c)'
    out, i = [], 0
    while i < len(text):
        c = text[i]
        if c.isspace():
            i += 1
        elif c.isdigit():
            j = i
            while j < len(text) and text[j].isdigit():
                j += 1
            out.append(int(text[i:j]))
            i = j
        elif c == '"' or c == "'":
            j = text.index(c, i + 1)
            out.append(text[i + 1 : j])
            i = j + 1
        else:
            out.append(c)
            i += 1
    return len(out)
