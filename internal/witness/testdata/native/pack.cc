// Packs and unpacks the files that it is given, and looks at a damaged one.
#include <cstdio>
#include <fstream>
#include <iterator>
#include "snappy.h"
int main(int n, char** names) {
  for (int i = 1; i < n; i++) {
    std::ifstream in(names[i]);
    std::string text((std::istreambuf_iterator<char>(in)), {}), small, back;
    snappy::Compress(text.data(), text.size(), &small);
    bool ok = snappy::Uncompress(small.data(), small.size(), &back) && back == text;
    small.resize(small.size() / 2);
    std::printf("%s %zu %zu %d %d\n", names[i], text.size(), small.size(), ok, snappy::IsValidCompressedBuffer(small.data(), small.size()));
  }
}
