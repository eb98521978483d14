#include "nuvat/core/stats/reference_window.h"

#include <cmath>
#include <stdexcept>

namespace nuvat {

std::string_view name(ToleranceOf of) {
    switch (of) {
    case ToleranceOf::Relative:
        return "relative";
    case ToleranceOf::Absolute:
        return "absolute";
    }
    throw std::invalid_argument("name: not a kind of tolerance");
}

std::optional<ToleranceOf> toleranceOfFromName(std::string_view text) {
    for (const ToleranceOf one : {ToleranceOf::Relative, ToleranceOf::Absolute}) {
        if (text == name(one)) {
            return one;
        }
    }
    return std::nullopt;
}

bool ReferenceWindow::holds(double value) const {
    return std::abs(value - reference) <= half;
}

ReferenceWindow windowAround(double reference, double tolerance, ToleranceOf of) {
    const double half = of == ToleranceOf::Relative ? std::abs(reference) * tolerance / 100 : tolerance;
    return {reference, reference - half, reference + half, half};
}

} // namespace nuvat
