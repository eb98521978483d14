// NIST StRD, linear regression with several columns: certified to 15 digits (Longley, Filip, Wampler 1, 3, 5).
#include "nuvat/core/fit/least_squares.h"
#include "support/reference.h"

#include <gtest/gtest.h>

namespace nuvat {
namespace {

using Real = long double;

Real exact(const std::string& text) {
    return std::strtold(text.c_str(), nullptr);
}

struct Set {
    const char* name;
    int degree;     ///< of a polynomial; 0: the columns as they are, with a constant
    double digits;  ///< of parameters
    double scatter; ///< digits of the SDs; 0: the fit is exact, s has to vanish
};

void PrintTo(const Set& set, std::ostream* out) {
    *out << set.name;
}

class NistLinearColumns : public testing::TestWithParam<Set> {};

TEST_P(NistLinearColumns, AgreesWithTheCertifiedValues) {
    const Set set = GetParam();
    const std::string file = std::string("linear_") + set.name;
    const auto json = test::referenceJson(file + ".json");
    const bool startsWithY = test::contentOf(test::referenceFile(file + ".csv")).starts_with("y");
    std::vector<Real> y;
    std::vector<std::vector<Real>> columns(json["certified"]["parameters"].size());
    for (const auto& row : test::referenceRows(file + ".csv")) {
        y.push_back(exact(startsWithY ? row.front() : row.back()));
        for (std::size_t k = 0; k < columns.size(); ++k) {
            Real value = 1;
            if (set.degree == 0) {
                value = k == 0 ? 1 : exact(row[startsWithY ? k : k - 1]);
            } else {
                for (std::size_t power = 0; power < k; ++power) {
                    value *= exact(row[startsWithY ? 1 : 0]);
                }
            }
            columns[k].push_back(value);
        }
    }
    const LeastSquaresFit fit = fitLinear(columns, y);
    ASSERT_TRUE(fit.isUsable()) << fit.message;
    double parameters = 16;
    double sds = 16;
    for (std::size_t k = 0; k < columns.size(); ++k) {
        const std::string name = "B" + std::to_string(k);
        parameters =
            std::min(parameters, test::correctDigits(fit.parameters[k], json["certified"]["parameters"][name]));
        if (set.scatter > 0) {
            sds = std::min(sds, test::correctDigits(fit.se[k], json["certified"]["sd"][name]));
        }
    }
    std::cout << "  " << set.name << ": parameters " << parameters << ", SDs " << sds << " digits, s " << fit.s << "\n";
    EXPECT_GE(parameters, set.digits);
    if (set.scatter > 0) {
        EXPECT_GE(sds, set.scatter);
        EXPECT_GE(test::correctDigits(fit.s, json["certified"]["residual_sd"]), set.scatter);
    } else {
        EXPECT_LT(fit.s, 1e-7); // stated by the reference for exact data
    }
    EXPECT_GE(test::correctDigits(fit.rSquared, json["certified"]["r_squared"]), set.digits);
}

INSTANTIATE_TEST_SUITE_P(Sets, NistLinearColumns,
                         testing::Values(Set{"Longley", 0, 12, 12}, Set{"Filip", 10, 9, 9}, Set{"Wampler1", 5, 9, 0},
                                         Set{"Wampler3", 5, 9, 12}, Set{"Wampler5", 5, 9, 12}),
                         [](const auto& set) { return std::string(set.param.name); });

TEST(LinearColumns, DependentColumnsAreNotDetermined) {
    const std::vector<std::vector<Real>> columns{{1, 1, 1, 1}, {1, 2, 3, 4}, {2, 4, 6, 8}};
    const std::vector<Real> y{1, 2, 4, 3};
    const LeastSquaresFit fit = fitLinear(columns, y);
    EXPECT_EQ(fit.status, FitStatus::NotDetermined);
    EXPECT_TRUE(fit.parameters.empty());
}

} // namespace
} // namespace nuvat
