#include "nuvat/workflow/plate_recipe.h"

#include <algorithm>

namespace nuvat {

PlateCut cutOf(const PlateRecipe& recipe) {
    const auto sign = [](const std::string& text) {
        return text.size() == 1 ? std::optional(text.front()) : std::nullopt;
    };
    return {{sign(recipe.separator), sign(recipe.decimal)}, recipe.blocks};
}

std::vector<std::string> readKeys(const std::vector<PlateImport>& reads) {
    std::vector<std::string> out;
    for (std::size_t i = 0; i < reads.size(); ++i) {
        out.push_back(reads[i].readName.empty() ? "read " + std::to_string(i + 1) : reads[i].readName);
    }
    return out;
}

std::vector<bool> applyRecipe(const PlateRecipe& recipe, std::vector<PlateImport>& reads) {
    std::vector<bool> taken(reads.size(), true);
    const auto keys = readKeys(reads);
    for (std::size_t i = 0; i < reads.size(); ++i) {
        if (const ReadRecipe* corrected = recipe.find(keys[i])) {
            taken[i] = corrected->isTaken;
            reads[i].readName = corrected->name;
        }
    }
    if (std::ranges::find(taken, true) == taken.end()) { // of another kind than those the recipe was made from
        taken.assign(reads.size(), true);
    }
    return taken;
}

PlateRecipe correctedRecipe(PlateRecipe recipe, const std::vector<std::string>& keys,
                            const std::vector<PlateImport>& reads, const std::vector<bool>& isTaken,
                            const PlateCut& cut) {
    const auto text = [](std::optional<char> sign) { return sign ? std::string(1, *sign) : std::string(); };
    recipe.separator = text(cut.notation.separator);
    recipe.decimal = text(cut.notation.decimal);
    recipe.blocks = cut.blocks;
    for (std::size_t i = 0; i < reads.size(); ++i) {
        std::erase_if(recipe.reads, [&](const ReadRecipe& one) { return one.read == keys[i]; });
        const bool isNamed =
            reads[i].readName == keys[i] || (reads[i].readName.empty() && keys[i] == "read " + std::to_string(i + 1));
        if (!isNamed || !isTaken[i]) {
            recipe.reads.push_back({keys[i], reads[i].readName, isTaken[i]});
        }
    }
    return recipe;
}

} // namespace nuvat
