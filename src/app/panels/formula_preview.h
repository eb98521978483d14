#pragma once

#include "nuvat/batch/batch.h"

#include <QString>
#include <span>

namespace nuvat {

/// What a formula of a response would give, said while it is typed.
struct FormulaPreview {
    QString words; ///< "A1 0.4613 · A2 0.4588", or what is wrong and at which character
    bool isWrong = false;
};
/// @param places at most three of them are shown, those without a role last
FormulaPreview previewOf(const Batch& batch, const std::string& formula, std::span<const Place> places);

} // namespace nuvat
