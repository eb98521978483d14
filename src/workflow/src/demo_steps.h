#pragma once

#include "nuvat/batch/command.h"
#include "nuvat/workflow/session.h"

#include <filesystem>
#include <functional>
#include <vector>

namespace nuvat {

// What demo batches are made of.

using Step = std::function<Result<Command>(const Batch&)>;

/// Places of a carrier from one corner to the other, row by row.
std::vector<Place> block(int firstRow, int lastRow, int firstColumn, int lastColumn, int carrier = 1);
/// The batch that the steps make, each 20 seconds after the one before.
Result<OpenBatch> made(DocumentState fresh, std::int64_t now, const std::vector<Step>& steps,
                       const std::filesystem::path& path);

/// Esters in cider: gas chromatography, external standard.
Result<OpenBatch> estersDemo(const std::filesystem::path& path);
/// Organic acids in cider: liquid chromatography at two wavelengths, internal standard.
Result<OpenBatch> acidsDemo(const std::filesystem::path& path);
/// Ascorbic acid in juice: square-wave voltammetry, standard addition.
Result<OpenBatch> ascorbicAcidDemo(const std::filesystem::path& path);

} // namespace nuvat
