#pragma once

#include "nuvat/core/formula/formula.h"

#include <string>
#include <vector>

namespace nuvat {

/// The channels that occur in a formula, in their order; "450 nm" is one name although it has a blank in it.
std::vector<std::string> channelsIn(const std::string& formula, const std::vector<std::string>& channels);

/// A formula over the channels of a place: "450 nm − 620 nm", "log10(blue) / 2". Channels are written as they are
/// called; one whose name is a number alone, or stands for something else in a formula, is put in quotation marks.
/// Minus, times and divided by may be the signs of print (− × · ÷).
class ValueFormula {
public:
    /// @param channels that it may name. @return the errors of Formula::parse; the character is that of the text typed
    static Result<ValueFormula> parse(const std::string& text, const std::vector<std::string>& channels);

    /// What value() takes, in its order.
    const std::vector<std::string>& channels() const { return m_channels; }
    /// @param values one a channel. @return not finite where the formula is not defined
    double value(const std::vector<double>& values) const { return m_formula.value(std::span<const double>(values)); }

private:
    ValueFormula(Formula formula, std::vector<std::string> channels)
        : m_formula(std::move(formula)), m_channels(std::move(channels)) {}
    Formula m_formula;
    std::vector<std::string> m_channels;
};

} // namespace nuvat
