#pragma once

#include "nuvat/batch/command.h"

namespace nuvat::test {

/// Gaussian peaks at 60 s (height 10 times `amount`) and 120 s (height 5 times `amount`, left out when it is 0) on a
/// sloping ground, with noise of SD 0.01 by a seed of the name; 0 to 200 s in steps of 0.2.
Trace chromatogram(double amount, double secondAmount, unsigned seed);
/// A run of that chromatogram under the channel "detector".
ImportedRun runOf(const std::string& name, double amount, double secondAmount, unsigned seed);
/// A batch of standards 1, 2, 4, 8 in runs 1 to 4, a sample of 3 in run 5 and one without the second peak in run 6; one
/// analyte a peak, areas, straight lines.
Batch traceBatch();
/// The slot of a run of it, counted from 1.
Slot slotOf(int run);
/// Does a command. @throws std::runtime_error, which fails the test, where it is an Error
void apply(Batch& batch, const Result<Command>& command);

} // namespace nuvat::test
