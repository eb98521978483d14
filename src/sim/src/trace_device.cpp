// Instruments whose readings grow while they measure.
#include "kinds.h"
#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace nuvat {

std::size_t TraceDevice::samplesNow() const {
    if (!m_started) {
        return 0;
    }
    const double end = m_aborted.value_or(now());
    if (!needsTrigger()) {
        const auto came = static_cast<std::size_t>(std::max(0.0, (end - *m_started) * rate()));
        return std::min(came, length());
    }
    if (!m_triggered) {
        return static_cast<std::size_t>(std::max(0.0, (end - *m_started) * rate()));
    }
    const auto after = static_cast<std::size_t>(std::max(0.0, (end - *m_triggered) * rate()));
    return static_cast<std::size_t>(m_before) + std::min(after, length());
}

bool TraceDevice::isDone() const {
    const bool isWhole =
        (m_triggered || !needsTrigger()) && samplesNow() >= static_cast<std::size_t>(m_before) + length();
    return m_started && (m_aborted || isWhole);
}

Device::State TraceDevice::state() const {
    if (!isWarm()) {
        return State::WarmingUp;
    }
    if (!m_started || isDone()) {
        return State::Idle;
    }
    return needsTrigger() && !m_triggered ? State::Ready : State::Running;
}

void TraceDevice::reset() {
    m_started.reset();
    m_triggered.reset();
    m_aborted.reset();
    m_before = 0;
    m_vial = 1;
    m_dilution = 1;
    m_left = m_leftNext = 0;
}

void TraceDevice::start() {
    if (!isWarm()) {
        complain(-221, "Settings conflict; the instrument is warming up");
        return;
    }
    m_started = now();
    m_triggered.reset();
    m_aborted.reset();
    m_before = 0;
    if (!needsTrigger()) {
        ++m_runs;
    }
}

void TraceDevice::trigger() {
    if (!m_started || m_triggered || isDone()) {
        complain(-211, "Trigger ignored");
        return;
    }
    m_before = static_cast<long>(samplesNow());
    m_triggered = now();
    m_left = settings().misbehaviour == Misbehaviour::CarryOver ? 0.05 * m_leftNext : 0;
    m_leftNext = contentNow();
    ++m_runs;
}

std::string TraceDevice::fetch(std::size_t from) const {
    constexpr std::size_t kMost = 400;
    const std::size_t all = samplesNow();
    const std::size_t count = from < all ? std::min(kMost, all - from) : 0;
    std::string out =
        std::to_string(from) + "," + std::to_string(count) + "," + (isDone() && from + count >= all ? "D" : "R");
    const std::size_t channelCount = channels().size();
    for (std::size_t k = from; k < from + count; ++k) {
        const long i = static_cast<long>(k) - m_before;
        // Before the trigger it is not known when that will be: x is that of the start, below 0 afterwards.
        out += ";" + formatNumber(xAt(i));
        for (std::size_t channel = 0; channel < channelCount; ++channel) {
            out += "," + formatFigures(valueAt(channel, i), 9);
        }
    }
    return out;
}

bool TraceDevice::takeSetting(std::string_view, std::string_view, std::optional<std::string>&) {
    return false;
}

bool TraceDevice::takeOwn(std::string_view command, std::string_view argument, std::optional<std::string>& answer) {
    const auto numbers = numbersOf(argument);
    // Not a number where there is none: no comparison holds then.
    const double first = numbers ? numbers->front() : std::numeric_limits<double>::quiet_NaN();
    if (command == "INIT") {
        start();
    } else if (command == "TRIG") {
        trigger();
    } else if (command == "ABOR") {
        if (m_started && !isDone()) {
            m_aborted = now();
        }
    } else if (command == "SENS:CHAN?") {
        std::string list;
        for (const std::string& channel : channels()) {
            list += (list.empty() ? "" : ",") + channel;
        }
        answer = list;
    } else if (command == "SENS:X?") {
        answer = xUnit();
    } else if (command == "SENS:TIME?") {
        answer = formatNumber(m_seconds);
    } else if (command == "TRIG:BEF?") {
        answer = m_triggered ? std::to_string(m_before) : "-1";
    } else if (command == "SENS:TIME" && first > 0) {
        m_seconds = first;
    } else if (command == "ROUT:VIAL" && first >= 1) {
        m_vial = static_cast<int>(first);
    } else if (command == "ROUT:DIL" && first >= 1) {
        m_dilution = first;
    } else if (command == "ROUT:FILL?" && first >= 1) {
        answer = settings().misbehaviour == Misbehaviour::EmptyVial ? "0" : "1";
    } else if (command == "FETC?" && first >= 0) {
        answer = fetch(static_cast<std::size_t>(first));
    } else if (takeSetting(command, argument, answer)) {
        return true;
    } else if (command == "SENS:TIME" || command == "ROUT:VIAL" || command == "ROUT:DIL" || command == "FETC?") {
        complain(-222, "Data out of range");
        if (command.ends_with("?")) {
            answer = "";
        }
    } else {
        return false;
    }
    return true;
}

} // namespace nuvat
