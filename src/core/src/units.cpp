#include "nuvat/core/base/units.h"

#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

enum Base { Ampere, Volt, Second, Gram, Mole, Litre, Metre, kBases };

/// A unit as a number of base units.
struct Unit {
    long double factor = 1; ///< without powers of ten
    int tens = 0;
    std::array<int, kBases> powers{};

    void multiply(const Unit& other, int sign) {
        factor = sign > 0 ? factor * other.factor : factor / other.factor;
        tens += sign * other.tens;
        for (std::size_t i = 0; i < powers.size(); ++i) {
            powers[i] += sign * other.powers[i];
        }
    }
};

struct Named {
    std::string_view name;
    Unit unit;
};

Unit base(Base which, long double factor = 1, int tens = 0) {
    Unit out;
    out.factor = factor;
    out.tens = tens;
    out.powers[which] = 1;
    return out;
}

Unit quotient(Unit above, const Unit& below) {
    above.multiply(below, -1);
    return above;
}

Unit product(Unit a, const Unit& b) {
    a.multiply(b, 1);
    return a;
}

const std::array<Named, 15>& namedUnits() {
    static const std::array<Named, 15> kUnits{{{"A", base(Ampere)},
                                               {"V", base(Volt)},
                                               {"s", base(Second)},
                                               {"sec", base(Second)},
                                               {"min", base(Second, 60)},
                                               {"h", base(Second, 36, 2)},
                                               {"C", product(base(Ampere), base(Second))},
                                               {"Hz", quotient(Unit{}, base(Second))},
                                               {"g", base(Gram)},
                                               {"mol", base(Mole)},
                                               {"M", quotient(base(Mole), base(Litre))},
                                               {"L", base(Litre)},
                                               {"l", base(Litre)},
                                               {"m", base(Metre)},
                                               {"1", Unit{}}}};
    return kUnits;
}

constexpr std::array<std::pair<std::string_view, int>, 12> kPrefixes{{{"f", -15},
                                                                      {"p", -12},
                                                                      {"n", -9},
                                                                      {"u", -6},
                                                                      {"\u00B5", -6},
                                                                      {"\u03BC", -6},
                                                                      {"m", -3},
                                                                      {"c", -2},
                                                                      {"d", -1},
                                                                      {"k", 3},
                                                                      {"M", 6},
                                                                      {"G", 9}}};

std::optional<Unit> simpleUnit(std::string_view name) {
    const auto plain = [](std::string_view text) { return std::ranges::find(namedUnits(), text, &Named::name); };
    if (const auto found = plain(name); found != namedUnits().end()) {
        return found->unit;
    }
    for (const auto& [prefix, tens] : kPrefixes) {
        if (!name.starts_with(prefix)) {
            continue;
        }
        const auto found = plain(name.substr(prefix.size()));
        constexpr std::array<std::string_view, 4> kBare{"min", "h", "sec", "1"}; // take no prefix
        if (found != namedUnits().end() && std::ranges::find(kBare, found->name) == kBare.end()) {
            Unit out = found->unit;
            out.tens += tens;
            return out;
        }
    }
    return std::nullopt;
}

/// Products and quotients, with brackets.
class UnitReader {
public:
    explicit UnitReader(std::string_view text) : m_text(text) {}

    std::optional<Unit> read() {
        auto out = products(0);
        return out && m_at == m_text.size() ? out : std::nullopt;
    }

private:
    std::optional<Unit> products(int depth) {
        constexpr int kDeepest = 20;
        Unit out;
        int sign = 1;
        while (depth < kDeepest) {
            const auto next = factor(depth);
            if (!next) {
                return std::nullopt;
            }
            out.multiply(*next, sign);
            skipBlanks();
            if (m_at < m_text.size() && (m_text[m_at] == '*' || m_text[m_at] == '/')) {
                sign = m_text[m_at++] == '*' ? 1 : -1;
            } else if (m_text.substr(m_at).starts_with("\u00B7")) {
                sign = 1;
                m_at += 2;
            } else {
                return out;
            }
        }
        return std::nullopt;
    }

    std::optional<Unit> factor(int depth) {
        skipBlanks();
        if (m_at < m_text.size() && m_text[m_at] == '(') {
            ++m_at;
            auto inner = products(depth + 1);
            if (!inner || m_at >= m_text.size() || m_text[m_at] != ')') {
                return std::nullopt;
            }
            ++m_at;
            return inner;
        }
        std::size_t end = m_at;
        while (end < m_text.size() && m_text.find_first_of(" */()", end) != end &&
               !m_text.substr(end).starts_with("\u00B7")) {
            ++end;
        }
        const auto out = simpleUnit(m_text.substr(m_at, end - m_at));
        m_at = end;
        return out;
    }

    void skipBlanks() {
        while (m_at < m_text.size() && m_text[m_at] == ' ') {
            ++m_at;
        }
    }

    std::string_view m_text;
    std::size_t m_at = 0;
};

std::optional<Unit> unitOf(std::string_view text) {
    return UnitReader(trimmed(text)).read();
}

long double powerOfTen(int exponent) {
    long double out = 1;
    for (int i = 0; i < exponent; ++i) {
        out *= 10;
    }
    return out;
}

tl::unexpected<Error> unknown(std::string_view unit) {
    return fail("unit.unknown", "\"" + excerpt(unit) + "\" is no unit that is known.",
                "Use A, V, s, min, h, C, g, mol or L with prefixes, for example uA or mg/L.");
}

} // namespace

bool isUnit(std::string_view text) {
    return unitOf(text).has_value();
}

Result<double> converted(double value, std::string_view from, std::string_view to, std::optional<double> molarMass) {
    const auto source = unitOf(from), target = unitOf(to);
    if (!source || !target) {
        return unknown(source ? to : from);
    }
    Unit ratio = quotient(*source, *target);
    const bool isBetweenMassAndAmount = ratio.powers[Gram] != 0 && ratio.powers[Gram] == -ratio.powers[Mole];
    if (isBetweenMassAndAmount) {
        if (!molarMass) {
            return fail("unit.molar-mass",
                        "From " + excerpt(from) + " to " + excerpt(to) + " takes a molar mass, and none is given.",
                        "Give the molar mass in g/mol.");
        }
        for (; ratio.powers[Gram] > 0; --ratio.powers[Gram], ++ratio.powers[Mole]) {
            ratio.factor /= *molarMass;
        }
        for (; ratio.powers[Gram] < 0; ++ratio.powers[Gram], --ratio.powers[Mole]) {
            ratio.factor *= *molarMass;
        }
    }
    if (std::ranges::any_of(ratio.powers, [](int power) { return power != 0; })) {
        return fail("unit.different", excerpt(from) + " and " + excerpt(to) + " measure different quantities.");
    }
    const long double scaled = static_cast<long double>(value) * ratio.factor;
    return static_cast<double>(ratio.tens >= 0 ? scaled * powerOfTen(ratio.tens) : scaled / powerOfTen(-ratio.tens));
}

std::string_view unitSymbol(std::string_view text) {
    constexpr std::array<std::pair<std::string_view, std::string_view>, 9> kWords{{{"second", "s"},
                                                                                   {"seconds", "s"},
                                                                                   {"minute", "min"},
                                                                                   {"minutes", "min"},
                                                                                   {"hours", "h"},
                                                                                   {"volts", "V"},
                                                                                   {"millivolts", "mV"},
                                                                                   {"amperes", "A"},
                                                                                   {"nanometers", "nm"}}};
    const std::string word = lowerCase(trimmed(text));
    const auto found =
        std::ranges::find(kWords, std::string_view(word), &std::pair<std::string_view, std::string_view>::first);
    return found == kWords.end() ? trimmed(text) : found->second;
}

HeadingParts headingParts(std::string_view heading) {
    heading = trimmed(heading);
    for (const auto& [open, close] : {std::pair('(', ')'), std::pair('[', ']')}) {
        if (!heading.empty() && heading.back() == close) {
            const std::size_t at = heading.rfind(open);
            if (at != std::string_view::npos) {
                return {trimmed(heading.substr(0, at)), trimmed(heading.substr(at + 1, heading.size() - at - 2))};
            }
        }
    }
    for (const std::string_view mark : {" / ", ", "}) {
        const std::size_t at = heading.rfind(mark);
        if (at != std::string_view::npos && at > 0) {
            return {trimmed(heading.substr(0, at)), trimmed(heading.substr(at + mark.size()))};
        }
    }
    const std::size_t at = heading.rfind('_');
    if (at != std::string_view::npos && at > 0) {
        const std::string_view unit = heading.substr(at + 1);
        constexpr std::array<std::string_view, 7> kOthers{"AU", "mAU", "counts", "cps", "a.u.", "%", "degC"};
        if (unit != "1" && (isUnit(unit) || std::ranges::find(kOthers, unit) != kOthers.end())) {
            return {heading.substr(0, at), unit};
        }
    }
    return {heading, {}};
}

} // namespace nuvat
