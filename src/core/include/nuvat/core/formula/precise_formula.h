#pragma once

#include "nuvat/core/base/quad.h"
#include "nuvat/core/formula/formula.h"

#include <span>

namespace nuvat {

/// A formula in 34 digits; its constants keep the digits of a double. A header of its own: few need it, and what it
/// includes takes long to compile.
class PreciseFormula {
public:
    explicit PreciseFormula(Formula formula) : m_formula(std::move(formula)) {}
    /// @param values one a variable, in the order given to Formula::parse; @return not finite where it is not defined
    Quad value(std::span<const Quad> values) const;

private:
    Formula m_formula;
};

} // namespace nuvat
