#pragma once

#include "nuvat/core/base/error.h"

#include <memory>
#include <span>
#include <string>
#include <vector>

namespace nuvat {

/// A formula a person wrote, over named variables: + - * / ^ (also **), comparisons, && ||, condition ? a : b,
/// functions abs, acos, acosh, asin, asinh, atan, arctan, atanh, avg, cos, cosh, exp, ln and log (both natural), log10,
/// log2, max, min, rint, sign, sin, sinh, sqrt, sum, tan, tanh, constants pi (unless a variable has that name), _pi and
/// _e. Evaluated in extended precision with exact derivatives (reverse accumulation). Source: A.
/// Griewank, A. Walther, Evaluating Derivatives, 2nd ed. (2008), chapter 3.
class Formula {
public:
    /// @param text what was typed; @param variables all names it may use
    /// @param what how to call it in an error, for example "--formula"
    /// @return formula.syntax with the character at which it went wrong, formula.unknown-name, formula.empty
    static Result<Formula> parse(const std::string& text, const std::vector<std::string>& variables,
                                 const std::string& what = "The formula");

    /// @param values one a variable, in the order given to parse; @return not finite where the formula is not defined
    long double value(std::span<const long double> values) const;
    double value(std::span<const double> values) const;
    /// @param gradient one a variable, filled with the derivatives; @return the value
    long double valueAndGradient(std::span<const long double> values, std::span<long double> gradient) const;

    const std::string& text() const { return m_text; }
    /// Whether the variable of that index occurs.
    bool uses(std::size_t variable) const;

    struct Node; ///< of the expression, private to the sources of formulas

private:
    std::string m_text;
    std::size_t m_variables = 0;
    std::shared_ptr<const std::vector<Node>> m_nodes; // operands before what uses them; the last is the result

    friend struct PreciseFormula;
};

} // namespace nuvat
