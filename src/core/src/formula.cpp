#include "nuvat/core/formula/formula.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/formula/precise_formula.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <map>
#include <muParser.h>
#include <numbers>
#include <stdexcept>
#include <type_traits>

namespace nuvat {

namespace {

using Real = long double;

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
    template<class Function>
    UnaryFunction(const char* itsName, Function function, Real (*itsDerivative)(Real x, Real value))
        : name(itsName), value(function), quad(function), derivative(itsDerivative) {}

    const char* name;
    Real (*value)(const Real& x);
    Quad (*quad)(const Quad& x);
    Real (*derivative)(Real x, Real value);
};

template<class T> T signOf(const T& x) {
    return T(x < 0 ? -1 : x > 0 ? 1 : 0);
}

const std::array<UnaryFunction, 22>& unaryFunctions() {
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

/// Functions of several arguments.
struct ManyFunction {
    const char* name;
    Op op;
};
const std::array<ManyFunction, 4>& manyFunctions() {
    static const std::array<ManyFunction, 4> table{
        {{"sum", Op::Sum}, {"avg", Op::Average}, {"min", Op::Least}, {"max", Op::Most}}};
    return table;
}

// The parser only needs something to call; what is meant stands in the user data.
mu::value_type unaryStandIn(void* /*which*/, mu::value_type x) {
    return x;
}
mu::value_type manyStandIn(void* /*which*/, const mu::value_type* values, int /*count*/) {
    return values[0];
}

mu::value_type minusSign(mu::value_type x) {
    return -x;
}
mu::value_type plusSign(mu::value_type x) {
    return x;
}

/// A literal such as 1.5e-3, always with a point whatever the locale.
int readLiteral(const char* text, int* position, mu::value_type* value) {
    std::size_t length = 0;
    const auto isDigit = [&](std::size_t at) { return text[at] >= '0' && text[at] <= '9'; };
    while (isDigit(length) || text[length] == '.') {
        ++length;
    }
    if (length == 0 || (length == 1 && text[0] == '.')) {
        return 0;
    }
    if (text[length] == 'e' || text[length] == 'E') {
        const std::size_t sign = text[length + 1] == '+' || text[length + 1] == '-' ? 1 : 0;
        if (isDigit(length + 1 + sign)) {
            length += 1 + sign;
            while (isDigit(length)) {
                ++length;
            }
        }
    }
    const auto number = parseNumber(std::string_view(text, length));
    if (!number) {
        return 0;
    }
    *value = *number;
    *position += static_cast<int>(length);
    return 1;
}

} // namespace

struct Formula::Node {
    Op op = Op::Constant;
    Real constant = 0;
    std::size_t variable = 0;
    const UnaryFunction* function = nullptr;
    std::array<std::size_t, 3> operands{};
    std::vector<std::size_t> many; ///< of sum, average, least, most
};

namespace {

using Node = Formula::Node;

/// The parser's code in reverse Polish order, as nodes.
class Translator {
public:
    Translator(const mu::SToken* tokens, std::size_t count, const std::vector<mu::value_type>& variables)
        : m_tokens(tokens), m_count(count), m_variables(variables) {}

    std::vector<Node> translate() {
        run(m_count);
        if (m_stack.size() != 1) {
            throw std::logic_error("Formula: the parser left more than one value");
        }
        // The result is last: node order is the order of evaluation.
        if (m_stack.back() != m_nodes.size() - 1) {
            Node copy;
            copy.op = Op::Sum;
            copy.many = {m_stack.back()};
            m_nodes.push_back(copy);
        }
        return std::move(m_nodes);
    }

private:
    std::size_t pop() {
        if (m_stack.empty()) {
            throw std::logic_error("Formula: the parser's code is short of values");
        }
        const std::size_t top = m_stack.back();
        m_stack.pop_back();
        return top;
    }
    void push(Node node) {
        m_nodes.push_back(std::move(node));
        m_stack.push_back(m_nodes.size() - 1);
    }
    void pushBinary(Op op) {
        Node node;
        node.op = op;
        node.operands[1] = pop();
        node.operands[0] = pop();
        push(std::move(node));
    }
    void pushFunction(const mu::SToken& token) {
        Node node;
        const auto raw = token.Fun.cb._pRawFun;
        if (raw == reinterpret_cast<mu::erased_fun_type>(&plusSign)) {
            return;
        }
        if (raw == reinterpret_cast<mu::erased_fun_type>(&minusSign)) {
            node.op = Op::Negate;
            node.operands[0] = pop();
            push(std::move(node));
            return;
        }
        const void* which = token.Fun.cb._pUserData;
        for (const UnaryFunction& function : unaryFunctions()) {
            if (which == &function) {
                node.op = Op::Function;
                node.function = &function;
                node.operands[0] = pop();
                push(std::move(node));
                return;
            }
        }
        for (const ManyFunction& function : manyFunctions()) {
            if (which == &function) {
                node.op = function.op;
                for (int i = 0; i < std::abs(token.Fun.argc); ++i) {
                    node.many.push_back(pop());
                }
                std::reverse(node.many.begin(), node.many.end());
                push(std::move(node));
                return;
            }
        }
        throw std::logic_error("Formula: the parser calls a function that was not offered");
    }
    /// Up to `end` or to the ELSE or ENDIF that closes the branch.
    void run(std::size_t end) {
        static const std::map<mu::ECmdCode, Op> kBinary{
            {mu::cmLE, Op::LessOrEqual}, {mu::cmGE, Op::GreaterOrEqual}, {mu::cmNEQ, Op::NotEqual},
            {mu::cmEQ, Op::Equal},       {mu::cmLT, Op::Less},           {mu::cmGT, Op::Greater},
            {mu::cmADD, Op::Add},        {mu::cmSUB, Op::Subtract},      {mu::cmMUL, Op::Multiply},
            {mu::cmDIV, Op::Divide},     {mu::cmPOW, Op::Power},         {mu::cmLAND, Op::And},
            {mu::cmLOR, Op::Or}};
        for (; m_at < end; ++m_at) {
            const mu::SToken& token = m_tokens[m_at];
            if (token.Cmd == mu::cmELSE || token.Cmd == mu::cmENDIF || token.Cmd == mu::cmEND) {
                return;
            }
            if (const auto binary = kBinary.find(token.Cmd); binary != kBinary.end()) {
                pushBinary(binary->second);
            } else if (token.Cmd == mu::cmVAL) {
                Node node;
                node.constant = token.Val.data2;
                push(std::move(node));
            } else if (token.Cmd == mu::cmVAR) {
                Node node;
                node.op = Op::Variable;
                node.variable = static_cast<std::size_t>(token.Val.ptr - m_variables.data());
                push(std::move(node));
            } else if (token.Cmd == mu::cmFUNC) {
                pushFunction(token);
            } else if (token.Cmd == mu::cmIF) {
                Node node;
                node.op = Op::If;
                node.operands[0] = pop();
                ++m_at;
                run(end);
                node.operands[1] = pop();
                ++m_at;
                run(end);
                node.operands[2] = pop();
                push(std::move(node));
            } else {
                throw std::logic_error("Formula: the parser gave a code that is not known");
            }
        }
    }

    const mu::SToken* m_tokens;
    std::size_t m_count;
    const std::vector<mu::value_type>& m_variables;
    std::size_t m_at = 0;
    std::vector<Node> m_nodes;
    std::vector<std::size_t> m_stack;
};

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

std::string explained(const mu::ParserError& error) {
    const std::string token = error.GetToken();
    switch (error.GetCode()) {
    case mu::ecUNEXPECTED_EOF:
        return "it ends before it is complete";
    case mu::ecUNEXPECTED_PARENS:
        return "the bracket \"" + token + "\" is not expected here";
    case mu::ecMISSING_PARENS:
        return "a closing bracket is missing";
    case mu::ecTOO_MANY_PARAMS:
        return "the function " + token + " has too many arguments";
    case mu::ecTOO_FEW_PARAMS:
        return "the function " + token + " has too few arguments";
    case mu::ecUNASSIGNABLE_TOKEN:
        return "there is nothing called \"" + token + "\"";
    default:
        return token.empty() ? "it cannot be read" : "\"" + token + "\" is not expected here";
    }
}

} // namespace

Result<Formula> Formula::parse(const std::string& text, const std::vector<std::string>& variables,
                               const std::string& what) {
    if (std::all_of(text.begin(), text.end(), [](char c) { return c == ' '; })) {
        return fail("formula.empty", what + " is empty.", "Type a formula, for example a + b*x.");
    }
    const bool isPlain = std::all_of(text.begin(), text.end(), [](char c) { return c >= ' ' && c < 127; });
    if (!isPlain || text.find('"') != std::string::npos || text.size() > 2000) {
        return fail("formula.syntax", what + " holds characters that have no meaning in a formula, or is too long.",
                    "Use letters, digits, + - * / ^ ( ) and the functions of the guide.");
    }
    std::string parsed = text;
    for (std::size_t at = parsed.find("**"); at != std::string::npos; at = parsed.find("**", at)) {
        parsed.replace(at, 2, "^ "); // as long as before, so that positions stay
    }
    std::vector<mu::value_type> slots(variables.size() + 1, 1.0);
    mu::Parser parser;
    Formula formula;
    formula.m_text = text;
    formula.m_variables = variables.size();
    try {
        parser.EnableOptimizer(false);
        parser.ClearFun();
        parser.ClearConst();
        parser.ClearInfixOprt();
        parser.ClearPostfixOprt();
        parser.ClearOprt();
        parser.AddValIdent(&readLiteral);
        parser.DefineConst("_pi", std::numbers::pi);
        parser.DefineConst("_e", std::numbers::e);
        if (std::find(variables.begin(), variables.end(), "pi") == variables.end()) {
            parser.DefineConst("pi", std::numbers::pi);
        }
        for (const UnaryFunction& function : unaryFunctions()) {
            parser.DefineFunUserData(function.name, &unaryStandIn, const_cast<UnaryFunction*>(&function), false);
        }
        for (const ManyFunction& function : manyFunctions()) {
            parser.DefineFunUserData(function.name, &manyStandIn, const_cast<ManyFunction*>(&function), false);
        }
        for (std::size_t i = 0; i < variables.size(); ++i) {
            const bool isFunction = parser.GetFunDef().contains(variables[i]);
            const bool isName = !variables[i].empty() &&
                                variables[i].find_first_not_of(parser.ValidNameChars()) == std::string::npos &&
                                !(variables[i][0] >= '0' && variables[i][0] <= '9');
            if (isName && !isFunction && !parser.GetConst().contains(variables[i])) {
                parser.DefineVar(variables[i], &slots[i]);
            }
        }
    } catch (const mu::ParserError& error) {
        return fail("formula.syntax", what + ": " + error.GetMsg() + ".", "Correct the formula.");
    }
    try {
        parser.DefineInfixOprt("+", &plusSign, mu::prINFIX, false);
        parser.DefineInfixOprt("-", &minusSign, mu::prINFIX, false);
        parser.SetExpr(parsed);
        (void)parser.Eval(); // builds the code and finds every error
        const mu::ParserByteCode& code = parser.GetByteCode();
        Translator translator(code.GetBase(), code.GetSize(), slots);
        auto nodes = translator.translate();
        formula.m_nodes = std::make_shared<const std::vector<Node>>(std::move(nodes));
        return formula;
    } catch (const mu::ParserError& error) {
        const auto position =
            std::min(static_cast<std::size_t>(std::max(error.GetPos(), 0)) + 1, std::max<std::size_t>(text.size(), 1));
        const bool isName = error.GetCode() == mu::ecUNASSIGNABLE_TOKEN;
        std::string names;
        for (const std::string& name : variables) {
            names += (names.empty() ? "" : ", ") + name;
        }
        const std::string where = what + ", character " + std::to_string(position) + ": " + explained(error) + ".";
        if (isName) {
            return fail("formula.unknown-name", where,
                        "Known are " + (names.empty() ? std::string("no names") : names) + ".");
        }
        return fail("formula.syntax", where, "Correct the formula there.");
    } catch (const std::logic_error&) {
        return fail("formula.syntax", what + " cannot be read.", "Simplify it.");
    }
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
