#pragma once

#include "nuvat/batch/method.h"
#include "nuvat/formats/plate_file.h"

#include <string>
#include <vector>

namespace nuvat {

/// How a recipe has files read. A separator or decimal sign of a recipe has one character.
PlateCut cutOf(const PlateRecipe& recipe);
/// What each read of a file is called in a recipe: its name in the file, or "read 2" where it has none.
std::vector<std::string> readKeys(const std::vector<PlateImport>& reads);
/// Names reads as the recipe says. @return which of them are taken
std::vector<bool> applyRecipe(const PlateRecipe& recipe, std::vector<PlateImport>& reads);
/// The recipe with what was corrected of these reads. @param keys of readKeys, before the correction; @param cut with
/// which they were read
PlateRecipe correctedRecipe(PlateRecipe recipe, const std::vector<std::string>& keys,
                            const std::vector<PlateImport>& reads, const std::vector<bool>& isTaken,
                            const PlateCut& cut = {});

} // namespace nuvat
