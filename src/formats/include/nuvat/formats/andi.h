#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/formats/file_content.h"

#include <string_view>

namespace nuvat {

/// Whether bytes begin as a classic netCDF file does.
bool looksLikeNetcdf(std::string_view bytes);

/// Reads an ANDI chromatogram, recognised by its variable ordinate_values: x is delay + i*interval in double, or
/// raw_data_retention where the sampling is not uniform, in the file's retention unit. Sources: ASTM E1947 and E1948
/// (from memory); AIA Analytical Data Interchange Protocol for Chromatographic Data.
/// @return netcdf.format, andi.not-a-chromatogram, andi.time-axis, or those of readAndiSpectra
Result<FileContent> readAndi(std::string_view bytes);

} // namespace nuvat
