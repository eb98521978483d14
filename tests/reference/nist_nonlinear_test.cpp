// NIST StRD, nonlinear regression: certified to 11 digits, from both starting points. The formulas go through the same
// parser and solver as nuvat-cli solve.
#include "nuvat/core/fit/least_squares.h"
#include "nuvat/core/formula/precise_formula.h"
#include "support/reference.h"

#include <cmath>
#include <gtest/gtest.h>
#include <iomanip>
#include <iostream>
#include <sstream>

namespace nuvat {
namespace {

using Real = long double;

constexpr double kDigits = 8;

/// Decimal text to extended precision: the text is the exact input.
Real exact(const std::string& text) {
    return std::strtold(text.c_str(), nullptr);
}

struct Columns {
    std::vector<Real> x, y;
    std::vector<Quad> preciseX, preciseY;
};

Columns columnsOf(const std::string& set) {
    const std::string content = test::contentOf(test::referenceFile(set + ".csv"));
    const bool startsWithY = content.starts_with("y");
    Columns out;
    for (const auto& row : test::referenceRows(set + ".csv")) {
        out.x.push_back(exact(row.at(startsWithY ? 1 : 0)));
        out.y.push_back(exact(row.at(startsWithY ? 0 : 1)));
        out.preciseX.emplace_back(row.at(startsWithY ? 1 : 0));
        out.preciseY.emplace_back(row.at(startsWithY ? 0 : 1));
    }
    return out;
}

/// "y = b1*(1-exp[-b2*x]) + e" as our formula.
std::string formulaOf(const std::string& model) {
    std::string text = model.substr(model.find('=') + 1);
    text = text.substr(0, text.rfind('+'));
    std::replace(text.begin(), text.end(), '[', '(');
    std::replace(text.begin(), text.end(), ']', ')');
    return text;
}

CurveFunction curveOf(const Formula& formula, const std::vector<Real>& x, std::size_t p) {
    return [&formula, &x, p](std::span<const Real> b, std::span<Real> values, std::span<Real> jacobian) {
        std::vector<Real> all(b.begin(), b.end());
        all.push_back(0);
        std::vector<Real> gradient(p + 1);
        for (std::size_t i = 0; i < x.size(); ++i) {
            all.back() = x[i];
            values[i] = formula.valueAndGradient(all, gradient);
            std::copy(gradient.begin(), gradient.end() - 1, jacobian.begin() + static_cast<std::ptrdiff_t>(i * p));
        }
        return std::all_of(values.begin(), values.end(), [](Real v) { return std::isfinite(v); });
    };
}

/// Lanczos1 is exact to the 13 decimals of its file: an extended double keeps 6 digits of its residuals.
PreciseResiduals preciseOf(const Formula& formula, const Columns& data) {
    return [&formula, &data](std::span<const Real> b, std::span<Real> residuals) {
        std::vector<Quad> all(b.begin(), b.end());
        all.emplace_back(0);
        for (std::size_t i = 0; i < residuals.size(); ++i) {
            all.back() = data.preciseX[i];
            residuals[i] = static_cast<Real>(data.preciseY[i] - PreciseFormula::value(formula, all));
        }
        return true;
    };
}

class NistNonlinear : public testing::TestWithParam<const char*> {};

TEST_P(NistNonlinear, AgreesFromBothStarts) {
    const std::string set = std::string("nonlinear_") + GetParam();
    const auto json = test::referenceJson(set + ".json");
    const Columns data = columnsOf(set);
    std::vector<std::string> names;
    for (std::size_t k = 1; k <= json["p"].get<std::size_t>(); ++k) {
        names.push_back("b" + std::to_string(k));
    }
    std::vector<std::string> variables = names;
    variables.emplace_back("x");
    const auto formula = Formula::parse(formulaOf(json["model"]), variables);
    ASSERT_TRUE(formula) << formula.error().text();
    const CurveFunction curve = curveOf(*formula, data.x, names.size());
    for (const char* start : {"start1", "start2"}) {
        SCOPED_TRACE(set + " " + start);
        const LeastSquaresFit fit =
            fitNonlinear(curve, json[start].get<std::vector<double>>(), data.y, {}, preciseOf(*formula, data));
        ASSERT_TRUE(fit.isUsable()) << fit.message;
        double parameters = 16;
        double sds = 16;
        for (std::size_t k = 0; k < names.size(); ++k) {
            parameters =
                std::min(parameters, test::correctDigits(fit.parameters[k], json["refined"]["parameters"][names[k]]));
            sds = std::min(sds, test::correctDigits(fit.se[k], json["refined"]["sd"][names[k]]));
        }
        const double sse = test::correctDigits(fit.sse, json["refined"]["residual_ss"]);
        std::cout << "  " << GetParam() << " " << start << ": parameters " << parameters << ", SDs " << sds << ", SSE "
                  << sse << " digits, " << fit.iterations << " iterations\n";
        EXPECT_GE(parameters, kDigits);
        EXPECT_GE(sds, kDigits);
        EXPECT_GE(sse, kDigits);
    }
}

INSTANTIATE_TEST_SUITE_P(Sets, NistNonlinear,
                         testing::Values("BoxBOD", "Chwirut2", "DanWood", "Eckerle4", "Gauss1", "Gauss2", "Hahn1",
                                         "Kirby2", "Lanczos1", "Lanczos3", "MGH09", "MGH17", "Misra1a", "Misra1b",
                                         "Rat42", "Thurber"),
                         [](const auto& set) { return std::string(set.param); });

// Not in our pack: data, starts and certified values from memory of NIST StRD. Misra1c and Misra1d have the data of
// Misra1b.
struct FromMemory {
    const char* formula;
    std::vector<std::vector<double>> starts;
    std::vector<double> certified;
    double sse;
};

void expectCertified(const FromMemory& problem, const std::vector<Real>& x, const std::vector<Real>& y) {
    std::vector<std::string> variables;
    for (std::size_t k = 1; k <= problem.certified.size(); ++k) {
        variables.push_back("b" + std::to_string(k));
    }
    variables.emplace_back("x");
    const auto formula = Formula::parse(problem.formula, variables);
    ASSERT_TRUE(formula) << formula.error().text();
    for (const auto& start : problem.starts) {
        const LeastSquaresFit fit = fitNonlinear(curveOf(*formula, x, start.size()), start, y);
        ASSERT_TRUE(fit.isUsable()) << problem.formula << ": " << fit.message;
        for (std::size_t k = 0; k < start.size(); ++k) {
            EXPECT_GE(test::correctDigits(fit.parameters[k], problem.certified[k]), kDigits) << problem.formula;
        }
        EXPECT_GE(test::correctDigits(fit.sse, problem.sse), kDigits) << problem.formula;
    }
}

TEST(NistNonlinearFromMemory, Misra1cMisra1dAndRat43AgreeFromBothStarts) {
    const Columns misra = columnsOf("nonlinear_Misra1b");
    expectCertified({"b1*(1-(1+2*b2*x)**(-.5))",
                     {{500, 0.0001}, {600, 0.0002}},
                     {6.3642725809e2, 2.0813627256e-4},
                     4.0966836971e-2},
                    misra.x, misra.y);
    expectCertified({"b1*b2*x*((1+b2*x)**(-1))",
                     {{500, 0.0001}, {450, 0.0003}},
                     {4.3736970754e2, 3.0227324449e-4},
                     5.6419295283e-2},
                    misra.x, misra.y);
    const std::vector<double> growth{16.08,  33.83,  65.80,  97.20,  191.55, 326.20, 386.87, 520.53,
                                     590.03, 651.92, 724.93, 699.56, 689.96, 637.56, 717.41};
    Columns rat;
    for (std::size_t i = 0; i < growth.size(); ++i) {
        rat.x.push_back(static_cast<Real>(i + 1));
        rat.y.push_back(growth[i]);
    }
    expectCertified({"b1/((1+exp(b2-b3*x))**(1/b4))",
                     {{100, 10, 1, 1}, {700, 5, 0.75, 1.3}},
                     {6.9964151270e2, 5.2771253025, 7.5962938329e-1, 1.2792483859},
                     8.7864049080e3},
                    rat.x, rat.y);
}

// Lanczos2 is Lanczos1 with six figures; its certified values are from memory of NIST StRD. The terms could change
// places without a change of the fit: they stand in the order of the starts.
TEST(NistNonlinearFromMemory, Lanczos2AgreesFromBothStarts) {
    const Columns data = columnsOf("nonlinear_Lanczos1");
    std::vector<Real> y;
    for (const Real exactY : data.y) {
        std::ostringstream text;
        text << std::scientific << std::setprecision(5) << exactY;
        y.push_back(exact(text.str()));
    }
    expectCertified({"b1*exp(-b2*x) + b3*exp(-b4*x) + b5*exp(-b6*x)",
                     {{1.2, 0.3, 5.6, 5.5, 6.5, 7.6}, {0.5, 0.7, 3.6, 4.2, 4, 6.3}},
                     {9.6251029939e-2, 1.0057332849, 8.6424689056e-1, 3.0078283915, 1.5529016879, 5.0028798100},
                     2.2299428125e-11},
                    data.x, y);
}

// MGH10 is not in our pack: data, starts and certified values from memory of NIST StRD.
TEST(NistNonlinearFromMemory, Mgh10AgreesFromBothStarts) {
    const auto formula = Formula::parse("b1*exp(b2/(x+b3))", {"b1", "b2", "b3", "x"});
    ASSERT_TRUE(formula);
    std::vector<Real> x;
    for (int i = 0; i < 16; ++i) {
        x.push_back(50 + 5 * i);
    }
    const std::vector<Real> y{34780, 28610, 23650, 19630, 16370, 13720, 11540, 9744,
                              8261,  7030,  6005,  5147,  4427,  3820,  3307,  2872};
    for (const auto& start : {std::vector<double>{2, 400000, 25000}, std::vector<double>{0.02, 4000, 250}}) {
        const LeastSquaresFit fit = fitNonlinear(curveOf(*formula, x, 3), start, y);
        ASSERT_TRUE(fit.isUsable()) << fit.message;
        EXPECT_GE(test::correctDigits(fit.parameters[0], 5.6096364710e-03), kDigits);
        EXPECT_GE(test::correctDigits(fit.parameters[1], 6.1813463463e+03), kDigits);
        EXPECT_GE(test::correctDigits(fit.parameters[2], 3.4522363462e+02), kDigits);
        EXPECT_GE(test::correctDigits(fit.sse, 8.7945855171e+01), kDigits);
    }
}

} // namespace
} // namespace nuvat
