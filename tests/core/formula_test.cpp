// Formulas: values against the C++ library, derivatives against central differences, errors at their character.
#include "nuvat/core/formula/precise_formula.h"

#include <array>
#include <cmath>
#include <gtest/gtest.h>

namespace nuvat {
namespace {

using Real = long double;
const std::vector<std::string> kNames{"a", "b", "x"};

// Every function and operation, of a, b and x.
const std::vector<std::string> kFormulas{"a/(1+exp(b-a*x))",
                                         "b + (a-b)/(1+(x/a)^b)^x",
                                         "a*exp(b/(x+a))",
                                         "sin(a)*cos(b)-tan(x)",
                                         "(a/b)*exp(-0.5*((x-b)/a)^2)",
                                         "asin(x)+acos(x/a)+atan(b)",
                                         "sinh(x)+cosh(a)*tanh(x)",
                                         "asinh(a)+acosh(b)+atanh(x)",
                                         "log2(a)*log10(b)+log(x)",
                                         "sqrt(a*b)+abs(x-b)",
                                         "x < 1 ? a*b*x : 0",
                                         "max(a, b*x)*min(a, b)",
                                         "sum(a,b,x)*avg(a,b,x)",
                                         "-a^b",
                                         "a^2*x^-1",
                                         "x-atan(b/(x-a))/_pi",
                                         "sign(x-b)*rint(a)",
                                         "a < b && x != 0 || b >= a",
                                         "a == b",
                                         "a <= b",
                                         "a > x"};

Real valueOf(const std::string& text, Real a = 2, Real b = 3, Real x = 0.5L) {
    const auto formula = Formula::parse(text, kNames);
    EXPECT_TRUE(formula) << text << ": " << (formula ? "" : formula.error().text());
    const std::array<Real, 3> values{a, b, x};
    return formula ? formula->value(values) : 0;
}

TEST(FormulaValues, FollowTheUsualRules) {
    EXPECT_EQ(valueOf("1 + 2*3"), 7);
    EXPECT_EQ(valueOf("a + b*x"), 3.5L);
    EXPECT_EQ(valueOf("-a^2"), -4);
    EXPECT_EQ(valueOf("2^3^2"), 512); // from the right
    EXPECT_EQ(valueOf("a**b"), 8);
    EXPECT_EQ(valueOf("a - b - x"), -1.5L);
    EXPECT_EQ(valueOf("b/a/x"), 3);
    EXPECT_EQ(valueOf("(a - -b)"), 5);
    EXPECT_EQ(static_cast<double>(valueOf("1.5e-3*2e3")), 3); // literals are doubles
    EXPECT_EQ(valueOf("x < 1 ? a : b"), 2);
    EXPECT_EQ(valueOf("a > b || a == 2 ? 10 : 20"), 10);
    EXPECT_EQ(valueOf("min(a, b, x) + max(a, b)"), 3.5L);
    EXPECT_EQ(valueOf("sum(a, b, x)/avg(1, 2, 3)"), 2.75L);
}

TEST(FormulaValues, AreThoseOfTheLibraryInExtendedPrecision) {
    EXPECT_EQ(valueOf("exp(x)"), std::exp(0.5L));
    EXPECT_EQ(valueOf("ln(b) - log10(a)"), std::log(3.0L) - std::log10(2.0L));
    EXPECT_DOUBLE_EQ(static_cast<double>(valueOf("atan(x)*_pi + arctan(x)*pi")),
                     std::atan(0.5) * 2 * 3.14159265358979324);
    EXPECT_EQ(valueOf("sqrt(abs(0 - a))"), std::sqrt(2.0L));
}

TEST(FormulaValues, AreNotFiniteWhereTheFormulaIsNotDefined) {
    EXPECT_FALSE(std::isfinite(valueOf("ln(0 - a)")));
    EXPECT_FALSE(std::isfinite(valueOf("1/(x - x)")));
}

// Digits of e and of the root of 2 from memory; the library's extended doubles for everything else.
TEST(PreciseFormula, HasThirtyFourDigits) {
    const auto quadOf = [](const std::string& text) {
        return PreciseFormula::value(*Formula::parse(text, {"x"}), std::array<Quad, 1>{Quad(2)});
    };
    EXPECT_LT(abs(quadOf("exp(x/2)") / Quad("2.7182818284590452353602874713526625") - 1), Quad("1e-33"));
    EXPECT_LT(abs(quadOf("sqrt(x)") / Quad("1.4142135623730950488016887242096981") - 1), Quad("1e-33"));
    EXPECT_LT(abs(quadOf("x^(1/x)") / Quad("1.4142135623730950488016887242096981") - 1), Quad("1e-33"));
}

TEST(PreciseFormula, AgreesWithExtendedPrecision) {
    for (const std::string& text : kFormulas) {
        const auto formula = Formula::parse(text, kNames);
        ASSERT_TRUE(formula) << text;
        const std::array<Real, 3> at{2.25L, 3, 0.5L};
        const std::array<Quad, 3> precise{Quad(2.25), Quad(3), Quad(0.5)};
        const Real expected = formula->value(at);
        EXPECT_NEAR(static_cast<double>(PreciseFormula::value(*formula, precise) - Quad(expected)), 0,
                    1e-17 * std::max(1.0, std::abs(static_cast<double>(expected))))
            << text;
    }
}

TEST(FormulaGradient, AgreesWithCentralDifferences) {
    for (const std::string& text : kFormulas) {
        const auto formula = Formula::parse(text, kNames);
        ASSERT_TRUE(formula) << text;
        std::array<Real, 3> at{2.25L, 3, 0.5L};
        std::array<Real, 3> gradient{};
        EXPECT_EQ(formula->valueAndGradient(at, gradient), formula->value(at)) << text;
        for (std::size_t k = 0; k < 3; ++k) {
            constexpr Real kStep = 1e-6L;
            auto low = at;
            auto high = at;
            low[k] -= kStep;
            high[k] += kStep;
            const Real want = (formula->value(high) - formula->value(low)) / (2 * kStep);
            EXPECT_NEAR(static_cast<double>(gradient[k]), static_cast<double>(want),
                        1e-9 * (1 + std::abs(static_cast<double>(want))))
                << text << " by " << kNames[k];
        }
    }
}

TEST(FormulaErrors, SayWhereAndWhat) {
    const auto codeOf = [](const std::string& text) {
        const auto formula = Formula::parse(text, kNames, "--formula");
        return formula ? std::string("ok") : formula.error().code;
    };
    EXPECT_EQ(codeOf("a +"), "formula.syntax");
    EXPECT_EQ(codeOf("(a + b"), "formula.syntax");
    EXPECT_EQ(codeOf("a b"), "formula.syntax");
    EXPECT_EQ(codeOf("a + q"), "formula.unknown-name");
    EXPECT_EQ(codeOf("   "), "formula.empty");
    const auto formula = Formula::parse("a + q*2", kNames, "--formula");
    EXPECT_NE(formula.error().text().find("q"), std::string::npos) << formula.error().text();
    EXPECT_NE(formula.error().text().find("character 5"), std::string::npos) << formula.error().text();
}

TEST(FormulaUses, TellsWhichVariablesOccur) {
    const auto formula = Formula::parse("a*2", kNames);
    EXPECT_TRUE(formula->uses(0));
    EXPECT_FALSE(formula->uses(2));
}

} // namespace
} // namespace nuvat
