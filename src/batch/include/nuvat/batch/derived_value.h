#pragma once

#include "nuvat/core/formula/formula.h"

namespace nuvat {

/// Names that the formula of a derived value may use: result (after dilution), dilution, volume and mass (of the
/// sample).
const std::vector<std::string>& derivedVariables();
/// @return the errors of Formula::parse
Result<Formula> parseDerived(const std::string& text);

} // namespace nuvat
