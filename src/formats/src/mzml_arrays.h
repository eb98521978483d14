#pragma once

#include "nuvat/core/base/error.h"

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

/// That a file may hold in all, whatever it says of itself.
inline constexpr std::size_t kMostPoints = 50'000'000;

enum class NumberCode { None, Float32, Float64, Int32, Int64 };
enum class Packing { None, Linear, Pic, Slof }; ///< MS-Numpress

/// How an array of numbers is written.
struct ArrayCode {
    NumberCode numbers = NumberCode::None;
    Packing packing = Packing::None;
    bool isDeflated = false;
    bool isBigEndian = false; ///< of plain numbers, as mzXML has them
};

/// Numbers of an array in base64. @param length how many there must be: nothing larger is made of the text
/// @return mzml.array with a sentence that begins with "its array …"
Result<std::vector<double>> decodeArray(std::string_view base64, ArrayCode code, std::size_t length);

} // namespace nuvat
