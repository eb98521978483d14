#pragma once

#include "nuvat/core/base/quad.h"
#include "nuvat/core/formula/formula.h"

#include <array>
#include <span>
#include <string_view>
#include <vector>

namespace nuvat {

/// What a node of a formula does.
enum class Op {
    Constant,
    Variable,
    Add,
    Subtract,
    Multiply,
    Divide,
    Power,
    Negate,
    LessOrEqual,
    GreaterOrEqual,
    NotEqual,
    Equal,
    Less,
    Greater,
    And,
    Or,
    If,
    Function,
    Sum,
    Average,
    Least,
    Most,
};

/// A function of one argument in both precisions, with its derivative, given the argument and the value.
struct UnaryFunction {
    using Real = long double;
    template<class Function>
    UnaryFunction(const char* functionName, Function function, Real (*functionDerivative)(Real x, Real value))
        : name(functionName), value(function), quad(function), derivative(functionDerivative) {}

    const char* name;
    Real (*value)(const Real& x);
    Quad (*quad)(const Quad& x);
    Real (*derivative)(Real x, Real value);
};
std::span<const UnaryFunction> unaryFunctions();

/// A function of several arguments.
struct ManyFunction {
    const char* name;
    Op op;
};
std::span<const ManyFunction> manyFunctions();

struct Formula::Node {
    Op op = Op::Constant;
    long double constant = 0;
    std::size_t variable = 0;
    const UnaryFunction* function = nullptr;
    std::array<std::size_t, 3> operands{};
    std::vector<std::size_t> many; ///< of sum, average, least, most
};

/// Reads a text into nodes, operands before what uses them, the result last.
/// @return formula.syntax with the character at which it went wrong, formula.unknown-name
Result<std::vector<Formula::Node>> parseFormula(std::string_view text, const std::vector<std::string>& variables,
                                                const std::string& what);

} // namespace nuvat
