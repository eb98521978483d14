#pragma once

#include "netcdf.h"
#include "nuvat/formats/file_content.h"

namespace nuvat {

/// An attribute as a line of the header shows it.
std::string shown(const NetcdfAttribute& attribute);

/// Chromatograms of an ANDI file of mass spectra: the total intensity of each scan, and where selected ions were
/// measured one for each. Where the file has no total, it is the sum of the scan.
/// Source: ASTM E2077. @return andi.scans for scans that reach beyond the values, or the errors of NetcdfFile
Result<FileContent> readAndiSpectra(const NetcdfFile& file);

} // namespace nuvat
