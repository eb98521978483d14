#include "nuvat/core/formula/formula.h"

#include "formula_nodes.h"
#include "nuvat/core/formula/precise_formula.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <type_traits>

namespace nuvat {

namespace {

using Node = Formula::Node;
using Real = long double;

template<class T> T signOf(const T& x) {
    return T(x < 0 ? -1 : x > 0 ? 1 : 0);
}

} // namespace

std::span<const UnaryFunction> unaryFunctions() {
    using namespace std; // sin and the like for extended doubles; those of Quad are found by its namespace
    static const std::array<UnaryFunction, 22> table{{
        {"sin", [](const auto& x) { return sin(x); }, [](Real x, Real) { return cos(x); }},
        {"cos", [](const auto& x) { return cos(x); }, [](Real x, Real) { return -sin(x); }},
        {"tan", [](const auto& x) { return tan(x); }, [](Real, Real v) { return 1 + v * v; }},
        {"asin", [](const auto& x) { return asin(x); }, [](Real x, Real) { return 1 / sqrt((1 - x) * (1 + x)); }},
        {"acos", [](const auto& x) { return acos(x); }, [](Real x, Real) { return -1 / sqrt((1 - x) * (1 + x)); }},
        {"atan", [](const auto& x) { return atan(x); }, [](Real x, Real) { return 1 / (1 + x * x); }},
        {"arctan", [](const auto& x) { return atan(x); }, [](Real x, Real) { return 1 / (1 + x * x); }},
        {"sinh", [](const auto& x) { return sinh(x); }, [](Real x, Real) { return cosh(x); }},
        {"cosh", [](const auto& x) { return cosh(x); }, [](Real x, Real) { return sinh(x); }},
        {"tanh", [](const auto& x) { return tanh(x); }, [](Real, Real v) { return (1 - v) * (1 + v); }},
        {"asinh", [](const auto& x) { return asinh(x); }, [](Real x, Real) { return 1 / sqrt(x * x + 1); }},
        {"acosh", [](const auto& x) { return acosh(x); }, [](Real x, Real) { return 1 / sqrt((x - 1) * (x + 1)); }},
        {"atanh", [](const auto& x) { return atanh(x); }, [](Real x, Real) { return 1 / ((1 - x) * (1 + x)); }},
        {"exp", [](const auto& x) { return exp(x); }, [](Real, Real v) { return v; }},
        {"ln", [](const auto& x) { return log(x); }, [](Real x, Real) { return 1 / x; }},
        {"log", [](const auto& x) { return log(x); }, [](Real x, Real) { return 1 / x; }},
        {"log10", [](const auto& x) { return log10(x); },
         [](Real x, Real) { return 1 / (x * std::numbers::ln10_v<Real>); }},
        {"log2", [](const auto& x) { return log2(x); },
         [](Real x, Real) { return 1 / (x * std::numbers::ln2_v<Real>); }},
        {"sqrt", [](const auto& x) { return sqrt(x); }, [](Real, Real v) { return 1 / (2 * v); }},
        {"abs", [](const auto& x) { return abs(x); }, [](Real x, Real) { return x < 0 ? Real(-1) : Real(1); }},
        {"sign", [](const auto& x) { return signOf(x); }, [](Real, Real) { return Real(0); }},
        {"rint", [](const auto& x) { return nearbyint(x); }, [](Real, Real) { return Real(0); }},
    }};
    return table;
}

std::span<const ManyFunction> manyFunctions() {
    static const std::array<ManyFunction, 4> table{
        {{"sum", Op::Sum}, {"avg", Op::Average}, {"min", Op::Least}, {"max", Op::Most}}};
    return table;
}

namespace {

template<class T> T valueOf(const Node& node, std::span<const T> variables, const std::vector<T>& v) {
    const auto truth = [](bool holds) { return T(holds ? 1 : 0); };
    const auto at = [&](std::size_t k) { return v[node.operands[k]]; };
    switch (node.op) {
    case Op::Constant:
        return T(node.constant);
    case Op::Variable:
        return variables[node.variable];
    case Op::Add:
        return at(0) + at(1);
    case Op::Subtract:
        return at(0) - at(1);
    case Op::Multiply:
        return at(0) * at(1);
    case Op::Divide:
        return at(0) / at(1);
    case Op::Power:
        using std::pow;
        return pow(at(0), at(1));
    case Op::Negate:
        return -at(0);
    case Op::LessOrEqual:
        return truth(at(0) <= at(1));
    case Op::GreaterOrEqual:
        return truth(at(0) >= at(1));
    case Op::NotEqual:
        return truth(at(0) != at(1));
    case Op::Equal:
        return truth(at(0) == at(1));
    case Op::Less:
        return truth(at(0) < at(1));
    case Op::Greater:
        return truth(at(0) > at(1));
    case Op::And:
        return truth(at(0) != 0 && at(1) != 0);
    case Op::Or:
        return truth(at(0) != 0 || at(1) != 0);
    case Op::If:
        return at(0) != 0 ? at(1) : at(2);
    case Op::Function:
        if constexpr (std::is_same_v<T, Quad>) {
            return node.function->quad(at(0));
        } else {
            return node.function->value(at(0));
        }
    case Op::Sum:
    case Op::Average: {
        T sum = 0;
        for (const std::size_t k : node.many) {
            sum += v[k];
        }
        return node.op == Op::Sum ? sum : sum / static_cast<T>(node.many.size());
    }
    case Op::Least:
    case Op::Most: {
        T best = v[node.many.front()];
        for (const std::size_t k : node.many) {
            best = node.op == Op::Least ? std::min(best, v[k]) : std::max(best, v[k]);
        }
        return best;
    }
    }
    return std::numeric_limits<T>::quiet_NaN();
}

/// Of all nodes; the last is that of the formula.
template<class T> std::vector<T> valuesOf(const std::vector<Node>& nodes, std::span<const T> variables) {
    std::vector<T> v(nodes.size());
    for (std::size_t i = 0; i < v.size(); ++i) {
        v[i] = valueOf(nodes[i], variables, v);
    }
    return v;
}

/// Passes the adjoint of a node on to its operands.
void passOn(const Node& node, const std::vector<Real>& v, std::size_t index, std::vector<Real>& adjoint,
            const std::vector<Node>& nodes) {
    const Real a = adjoint[index];
    const auto at = [&](std::size_t k) { return v[node.operands[k]]; };
    const auto give = [&](std::size_t k, Real share) { adjoint[node.operands[k]] += share; };
    switch (node.op) {
    case Op::Add:
        give(0, a);
        give(1, a);
        break;
    case Op::Subtract:
        give(0, a);
        give(1, -a);
        break;
    case Op::Multiply:
        give(0, a * at(1));
        give(1, a * at(0));
        break;
    case Op::Divide:
        give(0, a / at(1));
        give(1, -a * v[index] / at(1));
        break;
    case Op::Power:
        give(0, a * at(1) * std::pow(at(0), at(1) - 1));
        // The exponent's share needs a logarithm: only where the exponent is more than a number.
        if (nodes[node.operands[1]].op != Op::Constant && v[index] != 0) {
            give(1, a * v[index] * std::log(at(0)));
        }
        break;
    case Op::Negate:
        give(0, -a);
        break;
    case Op::If:
        give(at(0) != 0 ? 1 : 2, a);
        break;
    case Op::Function:
        give(0, a * node.function->derivative(at(0), v[index]));
        break;
    case Op::Sum:
    case Op::Average:
        for (const std::size_t k : node.many) {
            adjoint[k] += node.op == Op::Sum ? a : a / static_cast<Real>(node.many.size());
        }
        break;
    case Op::Least:
    case Op::Most:
        for (const std::size_t k : node.many) {
            if (v[k] == v[index]) {
                adjoint[k] += a;
                break;
            }
        }
        break;
    default: // constants, variables and conditions have nothing to pass on
        break;
    }
}

} // namespace

Result<Formula> Formula::parse(const std::string& text, const std::vector<std::string>& variables,
                               const std::string& what) {
    auto nodes = parseFormula(text, variables, what);
    if (!nodes) {
        return tl::unexpected(nodes.error());
    }
    Formula formula;
    formula.m_text = text;
    formula.m_variables = variables.size();
    formula.m_nodes = std::make_shared<const std::vector<Node>>(std::move(*nodes));
    return formula;
}

long double Formula::value(std::span<const long double> values) const {
    return valuesOf(*m_nodes, values).back();
}

Quad PreciseFormula::value(const Formula& formula, std::span<const Quad> values) {
    return valuesOf(*formula.m_nodes, values).back();
}

double Formula::value(std::span<const double> values) const {
    const std::vector<Real> wide(values.begin(), values.end());
    return static_cast<double>(value(std::span<const Real>(wide)));
}

long double Formula::valueAndGradient(std::span<const long double> values, std::span<long double> gradient) const {
    const auto& nodes = *m_nodes;
    const std::vector<Real> v = valuesOf(nodes, values);
    std::fill(gradient.begin(), gradient.end(), Real(0));
    std::vector<Real> adjoint(nodes.size(), 0);
    adjoint.back() = 1;
    for (std::size_t i = nodes.size(); i-- > 0;) {
        if (adjoint[i] == 0) {
            continue;
        }
        if (nodes[i].op == Op::Variable) {
            gradient[nodes[i].variable] += adjoint[i];
        } else {
            passOn(nodes[i], v, i, adjoint, nodes);
        }
    }
    return v.back();
}

bool Formula::uses(std::size_t variable) const {
    return std::any_of(m_nodes->begin(), m_nodes->end(),
                       [&](const Node& n) { return n.op == Op::Variable && n.variable == variable; });
}

} // namespace nuvat
