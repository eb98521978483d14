#pragma once

#include "nuvat/core/base/quad.h"
#include "nuvat/core/formula/formula.h"

#include <span>

namespace nuvat {

/// Formulas in 34 digits; their constants keep the digits of a double. A header of its own: few need it, and what it
/// includes takes long to compile.
struct PreciseFormula {
    /// @param values one a variable, in the order given to Formula::parse; @return not finite where it is not defined
    static Quad value(const Formula& formula, std::span<const Quad> values);
};

} // namespace nuvat
