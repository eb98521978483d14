#pragma once

#include "nuvat/formats/file_content.h"

namespace nuvat {

/// A run of spectra as the chromatogram of their total intensity, which is what a batch measures peaks in; with a
/// warning that says so. What is no such run, or says no times that rise, stays as it is.
FileContent asChromatogram(FileContent content);

} // namespace nuvat
