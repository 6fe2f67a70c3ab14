import sys
import time

import hot

data, x = [], 12345
for _ in range(4000):
    x = (x * 1103515245 + 12345) & 0x7FFFFFFF
    data.append(x >> 8)
loop = getattr(hot, sys.argv[1])
loop(data)
start = time.perf_counter()
for _ in range(int(sys.argv[2])):
    loop(data)
print(time.perf_counter() - start)
