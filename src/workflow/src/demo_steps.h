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

/// A run as if it had been read from a file of its own, "acids-007.csv". @param number from 1
ImportedRun inventedRun(const std::string& batch, std::size_t number, const std::string& name,
                        std::vector<std::pair<std::string, Trace>> channels);

/// Esters in cider: gas chromatography, external standard.
Result<OpenBatch> estersDemo(const std::filesystem::path& path);
/// Organic acids in cider: liquid chromatography at two wavelengths, internal standard.
Result<OpenBatch> acidsDemo(const std::filesystem::path& path);
/// Mycotoxins in grain and cider: mass spectrometry, two channels an analyte, standards that bracket the samples.
Result<OpenBatch> mycotoxinsDemo(const std::filesystem::path& path);
/// Free sulfite in cider: flow injection, the best two of three injections, a list of which the end is still planned.
Result<OpenBatch> sulfiteDemo(const std::filesystem::path& path);
/// Ascorbic acid in juice: square-wave voltammetry, standard addition.
Result<OpenBatch> ascorbicAcidDemo(const std::filesystem::path& path);

} // namespace nuvat
