#include "formula_nodes.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"

#include <algorithm>
#include <numbers>
#include <optional>

namespace nuvat {

namespace {

using Node = Formula::Node;

constexpr std::size_t kLongest = 2000; // characters of a text
constexpr int kDeepest = 200;          // brackets in brackets

/// An operator between two operands. Higher binds tighter.
struct Binary {
    std::string_view text;
    Op op;
    int strength;
    bool isFromRight = false;
};
constexpr std::array<Binary, 14> kBinaries{{{"||", Op::Or, 1},
                                            {"&&", Op::And, 2},
                                            {"<=", Op::LessOrEqual, 3}, // before "<"
                                            {">=", Op::GreaterOrEqual, 3},
                                            {"==", Op::Equal, 3},
                                            {"!=", Op::NotEqual, 3},
                                            {"<", Op::Less, 3},
                                            {">", Op::Greater, 3},
                                            {"+", Op::Add, 4},
                                            {"-", Op::Subtract, 4},
                                            {"**", Op::Power, 7, true}, // before "*"
                                            {"*", Op::Multiply, 5},
                                            {"/", Op::Divide, 5},
                                            {"^", Op::Power, 7, true}}};
constexpr int kSignStrength = 6; // -a^2 is -(a^2), -a*b is (-a)*b

/// What is wrong, and where.
struct Fault {
    std::size_t at = 0;
    std::string why;
    bool isUnknownName = false;
};

bool isLetter(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
}
bool isDigit(char c) {
    return c >= '0' && c <= '9';
}

/// Precedence climbing: an operand, then operators that bind tighter than what came before.
/// Source: V. R. Pratt, "Top down operator precedence", POPL (1973) 41-51.
class Parser {
public:
    Parser(std::string_view text, const std::vector<std::string>& variables) : m_text(text), m_variables(variables) {}

    bool parse() {
        const auto last = condition();
        skipBlanks();
        if (last && m_at < m_text.size()) {
            unexpected();
        }
        return last && !m_fault;
    }
    const std::optional<Fault>& fault() const { return m_fault; }
    std::vector<Node> takeNodes() { return std::move(m_nodes); }

private:
    using Index = std::optional<std::size_t>; ///< of a node; nothing after a fault

    void skipBlanks() {
        while (m_at < m_text.size() && m_text[m_at] == ' ') {
            ++m_at;
        }
    }
    bool take(std::string_view what) {
        skipBlanks();
        if (!m_text.substr(m_at).starts_with(what)) {
            return false;
        }
        m_at += what.size();
        return true;
    }
    Index fail(std::size_t at, std::string why, bool isUnknownName = false) {
        if (!m_fault) {
            m_fault = Fault{at, std::move(why), isUnknownName};
        }
        return std::nullopt;
    }
    Index unexpected() {
        skipBlanks();
        if (m_at >= m_text.size()) {
            return fail(m_at, "it ends before it is complete");
        }
        return fail(m_at, "\"" + std::string(m_text.substr(m_at, 1)) + "\" is not expected here");
    }
    std::size_t push(Node node) {
        m_nodes.push_back(std::move(node));
        return m_nodes.size() - 1;
    }

    /// condition ? yes : no, the loosest of all
    Index condition() {
        if (++m_depth > kDeepest) {
            return fail(m_at, "too many brackets stand in each other");
        }
        const Index test = binary(1);
        Index out = test;
        if (test && take("?")) {
            const Index yes = condition();
            if (yes && !take(":")) {
                return fail(m_at, "a \":\" is missing after \"?\"");
            }
            const Index no = yes ? condition() : std::nullopt;
            if (!no) {
                return std::nullopt;
            }
            Node node;
            node.op = Op::If;
            node.operands = {*test, *yes, *no};
            out = push(std::move(node));
        }
        --m_depth;
        return out;
    }

    const Binary* nextBinary() {
        skipBlanks();
        for (const Binary& one : kBinaries) {
            if (m_text.substr(m_at).starts_with(one.text)) {
                return &one;
            }
        }
        return nullptr;
    }

    Index binary(int weakest) {
        Index left = operand();
        while (left) {
            const Binary* next = nextBinary();
            if (next == nullptr || next->strength < weakest) {
                return left;
            }
            m_at += next->text.size();
            const Index right = binary(next->isFromRight ? next->strength : next->strength + 1);
            if (!right) {
                return std::nullopt;
            }
            Node node;
            node.op = next->op;
            node.operands = {*left, *right, 0};
            left = push(std::move(node));
        }
        return left;
    }

    Index operand() {
        skipBlanks();
        if (m_at >= m_text.size()) {
            return unexpected();
        }
        const char c = m_text[m_at];
        if (c == '-' || c == '+') {
            return sign(c == '-');
        }
        if (isDigit(c) || c == '.') {
            return literal();
        }
        if (isLetter(c)) {
            return named();
        }
        if (take("(")) {
            const std::size_t opened = m_at - 1;
            const Index inside = condition();
            return inside && !take(")") ? closing(opened) : inside;
        }
        return unexpected();
    }

    Index sign(bool isMinus) {
        ++m_at;
        if (++m_depth > kDeepest) {
            return fail(m_at, "too many signs stand before each other");
        }
        const Index of = binary(kSignStrength);
        --m_depth;
        if (!of || !isMinus) {
            return of;
        }
        Node node;
        node.op = Op::Negate;
        node.operands[0] = *of;
        return push(std::move(node));
    }

    Index closing(std::size_t opened) {
        skipBlanks();
        return m_at < m_text.size() && m_text[m_at] != ')' ? unexpected() : fail(opened, "the bracket is not closed");
    }

    /// 1.5e-3, always with a point whatever the locale
    Index literal() {
        const std::size_t from = m_at;
        while (m_at < m_text.size() && (isDigit(m_text[m_at]) || m_text[m_at] == '.')) {
            ++m_at;
        }
        if (m_at < m_text.size() && (m_text[m_at] == 'e' || m_text[m_at] == 'E')) {
            std::size_t digits = m_at + 1;
            digits += digits < m_text.size() && (m_text[digits] == '+' || m_text[digits] == '-') ? 1u : 0u;
            if (digits < m_text.size() && isDigit(m_text[digits])) {
                m_at = digits;
                while (m_at < m_text.size() && isDigit(m_text[m_at])) {
                    ++m_at;
                }
            }
        }
        const std::string_view text = m_text.substr(from, m_at - from);
        const auto value = parseNumber(text);
        if (!value) {
            return fail(from, "\"" + std::string(text) + "\" is not a number");
        }
        Node node;
        node.constant = *value;
        return push(std::move(node));
    }

    Index named() {
        const std::size_t from = m_at;
        while (m_at < m_text.size() && (isLetter(m_text[m_at]) || isDigit(m_text[m_at]))) {
            ++m_at;
        }
        const std::string name(m_text.substr(from, m_at - from));
        skipBlanks();
        const bool isCall = m_at < m_text.size() && m_text[m_at] == '(';
        const auto variable = std::find(m_variables.begin(), m_variables.end(), name);
        if (!isCall && variable != m_variables.end()) {
            Node node;
            node.op = Op::Variable;
            node.variable = static_cast<std::size_t>(variable - m_variables.begin());
            return push(std::move(node));
        }
        if (isCall) {
            return call(name, from);
        }
        if (name == "pi" || name == "_pi" || name == "_e") {
            Node node; // as literals, constants have the digits of a double
            node.constant = name == "_e" ? std::numbers::e : std::numbers::pi;
            return push(std::move(node));
        }
        return fail(from, "there is nothing called \"" + name + "\"", true);
    }

    Index call(const std::string& name, std::size_t from) {
        const auto unary = std::find_if(unaryFunctions().begin(), unaryFunctions().end(),
                                        [&](const UnaryFunction& f) { return name == f.name; });
        const auto many = std::find_if(manyFunctions().begin(), manyFunctions().end(),
                                       [&](const ManyFunction& f) { return name == f.name; });
        if (unary == unaryFunctions().end() && many == manyFunctions().end()) {
            return fail(from, "there is no function \"" + name + "\"", true);
        }
        const std::size_t opened = m_at;
        ++m_at; // the bracket
        std::vector<std::size_t> arguments;
        do {
            const Index argument = condition();
            if (!argument) {
                return std::nullopt;
            }
            arguments.push_back(*argument);
        } while (take(","));
        if (!take(")")) {
            return closing(opened);
        }
        Node node;
        if (unary != unaryFunctions().end()) {
            if (arguments.size() != 1) {
                return fail(from, "the function " + name + " takes one argument");
            }
            node.op = Op::Function;
            node.function = &*unary;
            node.operands[0] = arguments.front();
        } else {
            node.op = many->op;
            node.many = std::move(arguments);
        }
        return push(std::move(node));
    }

    std::string_view m_text;
    const std::vector<std::string>& m_variables;
    std::size_t m_at = 0;
    int m_depth = 0;
    std::vector<Node> m_nodes;
    std::optional<Fault> m_fault;
};

} // namespace

Result<std::vector<Formula::Node>> parseFormula(std::string_view text, const std::vector<std::string>& variables,
                                                const std::string& what) {
    if (std::all_of(text.begin(), text.end(), [](char c) { return c == ' '; })) {
        return fail("formula.empty", what + " is empty.", "Type a formula, for example a + b*x.");
    }
    const bool isPlain = std::all_of(text.begin(), text.end(), [](char c) { return c >= ' ' && c < 127; });
    if (!isPlain || text.size() > kLongest) {
        return fail("formula.syntax", what + " holds characters that have no meaning in a formula, or is too long.",
                    "Use letters, digits, + - * / ^ ( ) and the functions of the guide.");
    }
    Parser parser(text, variables);
    if (parser.parse()) {
        return parser.takeNodes();
    }
    const Fault fault = parser.fault().value_or(Fault{0, "it cannot be read", false});
    const std::string where = what + ", character " + std::to_string(fault.at + 1) + ": " + fault.why + ".";
    if (!fault.isUnknownName) {
        return fail("formula.syntax", where, "Correct the formula there.");
    }
    std::string names;
    for (const std::string& name : variables) {
        names += (names.empty() ? "" : ", ") + excerpt(name);
    }
    return fail("formula.unknown-name", where, "Known are " + (names.empty() ? std::string("no names") : names) + ".");
}

} // namespace nuvat
