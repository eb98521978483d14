// libFuzzer target: whatever the text, the formula parser answers with a formula or an Error, and a formula that it
// gives can be evaluated with its derivatives; both ways of evaluating agree.
#include "nuvat/core/formula/formula.h"

#include <array>
#include <cmath>
#include <cstdint>
#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string text(reinterpret_cast<const char*>(data), size);
    const auto formula = nuvat::Formula::parse(text, {"x", "a", "b1"});
    if (!formula) {
        if (formula.error().message.empty()) {
            std::abort();
        }
        return 0;
    }
    const std::array<long double, 3> values{0.5L, 2, -1.25L};
    std::array<long double, 3> gradient{};
    const long double value = formula->value(values);
    const long double again = formula->valueAndGradient(values, gradient);
    if (value != again && !(std::isnan(value) && std::isnan(again))) {
        std::abort();
    }
    return 0;
}
