#pragma once

#include "nuvat/batch/document.h"

#include <filesystem>
#include <functional>

namespace nuvat::test {

/// A small plate by commands, as a person would make it: 7 standards in duplicate (columns 1 and 2, 500 divided by 3),
/// blanks in H1 and H2, two QCs (A3:A4 12, B3:B4 80), six unknowns (C3:H4) with dilution factor 5; readings from a
/// noise-free falling 4PL (a 2.3, b 1.1, c 20, d 0.07) over a blank of 0.06, so that every answer is known.
Document sampleDocument(Document::Clock clock = [] { return 1'000; });
/// A batch file opened for editing; its commands are of the year 1970. Throws when it cannot be opened.
Document openDocument(const std::filesystem::path& path);
/// The concentrations of its unknowns before dilution, U01 first.
std::vector<double> sampleTruth();
/// Places of a replicate group, row by row.
std::vector<Place> placesOf(const Batch& batch, Assignment group);
/// The document's batch after a change of its method.
Batch withMethod(const Batch& batch, const std::function<void(Method&)>& change);

} // namespace nuvat::test
