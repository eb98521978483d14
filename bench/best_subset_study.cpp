// Variance of the mean of the n closest of m normal replicates, in units of the variance of one: the table of
// bestSubsetVariance. `best_subset_study [sets]`, 4 million unless said otherwise (fourth digit good to about 2).
#include <algorithm>
#include <array>
#include <cstdio>
#include <cstdlib>
#include <random>
#include <vector>

int main(int argc, char** argv) {
    const long sets = argc > 1 ? std::atol(argv[1]) : 4'000'000;
    constexpr int kMost = 8;
    for (int m = 3; m <= kMost; ++m) {
        std::mt19937_64 random(20261128);
        std::normal_distribution<double> normal;
        std::array<double, kMost> squares{};
        std::vector<double> x(static_cast<std::size_t>(m));
        for (long set = 0; set < sets; ++set) {
            std::generate(x.begin(), x.end(), [&] { return normal(random); });
            std::sort(x.begin(), x.end());
            for (int n = 2; n < m; ++n) {
                double least = 1e300;
                double mean = 0;
                for (int from = 0; from + n <= m; ++from) {
                    double sum = 0;
                    double sumOfSquares = 0;
                    for (int i = from; i < from + n; ++i) {
                        const double v = x[static_cast<std::size_t>(i)];
                        sum += v;
                        sumOfSquares += v * v;
                    }
                    const double within = sumOfSquares - sum * sum / n;
                    mean = within < least ? sum / n : mean;
                    least = std::min(least, within);
                }
                squares[static_cast<std::size_t>(n)] += mean * mean; // the expectation is 0
            }
        }
        std::printf("m %d:", m);
        for (int n = 2; n < m; ++n) {
            std::printf("  %d %.4f", n, squares[static_cast<std::size_t>(n)] / static_cast<double>(sets));
        }
        std::printf("\n");
    }
    return 0;
}
