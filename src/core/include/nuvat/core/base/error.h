#pragma once

#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace nuvat {

/// What a person is told when something could not be done. All codes are listed in docs/errors.md.
struct Error {
    std::string code;    ///< stable, for tests and scripts, for example "import.ragged-row"
    std::string message; ///< one sentence: what happened and where (file, line, cell, place)
    std::string advice;  ///< one sentence: what to do next; may be empty
    /// Message and advice as they are shown together.
    std::string text() const { return advice.empty() ? message : message + " " + advice; }
};

/// A value, or the Error that explains why there is none.
template<class T> class [[nodiscard]] Result : public tl::expected<T, Error> {
public:
    using tl::expected<T, Error>::expected;
};

/// The failed half of a Result.
inline tl::unexpected<Error> fail(std::string code, std::string message, std::string advice = {}) {
    return tl::unexpected<Error>(Error{std::move(code), std::move(message), std::move(advice)});
}

} // namespace nuvat
