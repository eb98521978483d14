// Writes the seeded hard sets as CSV (set,x,y) for bench/compare.py: `dump_sets count [asymmetric]`.
#include "support/hard_sets.h"

#include <cstdio>
#include <cstdlib>

int main(int argc, char** argv) {
    const unsigned count = argc > 1 ? static_cast<unsigned>(std::atoi(argv[1])) : 1000;
    std::printf("set,x,y\n");
    for (unsigned seed = 1; seed <= count; ++seed) {
        const auto data = nuvat::test::hardSet(seed, argc > 2);
        for (std::size_t i = 0; i < data.x.size(); ++i) {
            std::printf("%u,%.17g,%.17g\n", seed, data.x[i], data.y[i]);
        }
    }
}
