#pragma once

#include <optional>
#include <string_view>

namespace nuvat {

// Parts of what instruments answer.

/// Cuts the text up to a sign off. @return the part before it
std::string_view cut(std::string_view& text, char sign);
/// A number that is the whole of a text. @return nothing for anything else
std::optional<double> numberIn(std::string_view text);
/// So many answers without sense in a row end what is measured.
inline constexpr int kMostGarbled = 3;
inline constexpr int kPollMillis = 40;

} // namespace nuvat
