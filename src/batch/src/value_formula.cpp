#include "nuvat/batch/value_formula.h"

#include <algorithm>
#include <array>
#include <cctype>

namespace nuvat {

namespace {

bool isNamePart(char c) {
    return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_' || c == '.' || (c & 0x80) != 0;
}

bool isNumber(const std::string& text) {
    return std::all_of(text.begin(), text.end(), [](char c) { return (c >= '0' && c <= '9') || c == '.'; });
}

/// A name for a formula that is as long as what it stands for, so that an error still points at the right character.
std::string standIn(std::size_t index, std::size_t length) {
    std::string name = "c" + std::to_string(index);
    name.resize(std::max(name.size(), length), '_');
    return name;
}

/// The text with stand-ins for channels.
class Masked {
public:
    Masked(const std::string& text, const std::vector<std::string>& channels) : m_text(text) {
        m_known = channels;
        std::sort(m_known.begin(), m_known.end(),
                  [](const std::string& a, const std::string& b) { return a.size() > b.size(); });
        std::erase_if(m_known, [](const std::string& one) { return one.empty(); });
        while (m_at < m_text.size()) {
            if (!takeQuoted() && !takeName() && !takeSign()) {
                m_masked += m_text[m_at++];
            }
        }
    }
    const std::string& text() const { return m_masked; }
    const std::vector<std::string>& channels() const { return m_used; }
    const std::vector<std::string>& names() const { return m_names; }

private:
    bool takeQuoted() {
        const auto end = m_text[m_at] == '"' ? m_text.find('"', m_at + 1) : std::string::npos;
        if (end == std::string::npos) {
            return false;
        }
        const std::string inside = m_text.substr(m_at + 1, end - m_at - 1);
        return std::find(m_known.begin(), m_known.end(), inside) != m_known.end() && use(inside, end + 1 - m_at);
    }

    bool takeName() {
        if (m_at > m_afterSign && isNamePart(m_text[m_at - 1])) {
            return false;
        }
        for (const std::string& one : m_known) {
            const std::size_t end = m_at + one.size();
            const bool isWhole = end >= m_text.size() || !isNamePart(m_text[end]) || isSign(end);
            // One letter has no room for a stand-in of its length, and needs none.
            if (m_text.compare(m_at, one.size(), one) == 0 && isWhole && !isNumber(one)) {
                return use(one, one.size());
            }
        }
        return false;
    }

    bool use(const std::string& channel, std::size_t length) {
        // The same channel in quotation marks and without has two stand-ins; both are variables.
        std::size_t index = 0;
        while (index < m_used.size() && !(m_used[index] == channel && m_names[index].size() == length)) {
            ++index;
        }
        if (index == m_used.size()) {
            m_used.push_back(channel);
            m_names.push_back(length == 1 ? channel : standIn(index, length));
        }
        m_masked += m_names[index];
        m_at += length;
        return true;
    }

    struct Sign {
        std::string_view print;
        char plain;
    };
    static constexpr std::array<Sign, 4> kSigns{{{"−", '-'}, {"×", '*'}, {"·", '*'}, {"÷", '/'}}};

    bool isSign(std::size_t at) const {
        return std::any_of(kSigns.begin(), kSigns.end(),
                           [&](const Sign& sign) { return m_text.compare(at, sign.print.size(), sign.print) == 0; });
    }

    bool takeSign() {
        for (const Sign& sign : kSigns) {
            if (m_text.compare(m_at, sign.print.size(), sign.print) == 0) {
                m_masked += sign.plain;
                m_masked.append(sign.print.size() - 1, ' ');
                m_at += sign.print.size();
                m_afterSign = m_at;
                return true;
            }
        }
        return false;
    }

    std::string m_text;
    std::vector<std::string> m_known;
    std::size_t m_at = 0;
    std::size_t m_afterSign = 0; ///< where the text goes on after the last sign
    std::string m_masked;
    std::vector<std::string> m_used, m_names;
};

} // namespace

std::vector<std::string> channelsIn(const std::string& formula, const std::vector<std::string>& channels) {
    std::vector<std::string> out;
    const Masked masked(formula, channels);
    for (const std::string& one : masked.channels()) {
        if (std::find(out.begin(), out.end(), one) == out.end()) {
            out.push_back(one);
        }
    }
    return out;
}

Result<ValueFormula> ValueFormula::parse(const std::string& text, const std::vector<std::string>& channels) {
    const Masked masked(text, channels);
    auto formula = Formula::parse(masked.text(), masked.names(), "The formula of the response");
    if (!formula) {
        return tl::unexpected(formula.error());
    }
    return ValueFormula(std::move(*formula), masked.channels());
}

} // namespace nuvat
