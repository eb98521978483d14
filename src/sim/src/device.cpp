#include "nuvat/sim/device.h"

#include "kinds.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "nuvat/core/signal/synthetic.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

constexpr std::array<std::string_view, 6> kKindNames{"chromatograph", "plate-reader", "spectrophotometer",
                                                     "potentiostat",  "autosampler",  "gas-chromatograph"};
constexpr std::array<std::string_view, 9> kMisbehaviourNames{"none",  "silent", "slow",       "garbage",   "cut",
                                                             "drift", "bubble", "carry-over", "empty-vial"};

template<class Enum, std::size_t n>
std::optional<Enum> named(const std::array<std::string_view, n>& names, std::string_view text) {
    const auto found = std::ranges::find(names, text);
    return found == names.end() ? std::nullopt : std::optional(static_cast<Enum>(found - names.begin()));
}

} // namespace

std::string_view name(DeviceKind kind) {
    return kKindNames.at(static_cast<std::size_t>(kind));
}
std::optional<DeviceKind> deviceKindFromName(std::string_view text) {
    return named<DeviceKind>(kKindNames, text);
}
std::string_view name(Misbehaviour what) {
    return kMisbehaviourNames.at(static_cast<std::size_t>(what));
}
std::optional<Misbehaviour> misbehaviourFromName(std::string_view text) {
    return named<Misbehaviour>(kMisbehaviourNames, text);
}
bool isOfLine(Misbehaviour what) {
    return what == Misbehaviour::Silent || what == Misbehaviour::Slow || what == Misbehaviour::Garbage ||
           what == Misbehaviour::Cut;
}

Device::Device(DeviceSettings settings) : m_settings(std::move(settings)) {}

std::optional<std::vector<double>> Device::numbersOf(std::string_view list) {
    std::vector<double> out;
    while (true) {
        const std::size_t comma = list.find(',');
        const auto number = parseNumber(trimmed(list.substr(0, comma)));
        if (!number) {
            return std::nullopt;
        }
        out.push_back(*number);
        if (comma == std::string_view::npos) {
            return out;
        }
        list.remove_prefix(comma + 1);
    }
}

void Device::complain(int code, std::string_view sentence) {
    constexpr std::size_t kMost = 20;
    if (m_errors.size() < kMost) {
        m_errors.push_back(std::to_string(code) + ",\"" + std::string(sentence) + "\"");
    }
}

std::optional<std::string> Device::take(std::string_view line, double seconds) {
    m_now = std::max(m_now, seconds);
    const std::string_view text = trimmed(line);
    const std::size_t blank = text.find(' ');
    const std::string command = upperCase(text.substr(0, blank));
    const std::string_view argument = blank == std::string_view::npos ? "" : trimmed(text.substr(blank + 1));
    if (command.empty()) {
        return std::nullopt;
    }
    if (command == "*IDN?") {
        return "NUVAT," + model() + ",STAND-IN " + std::to_string(m_settings.seed) + ",1";
    }
    if (command == "*RST") {
        m_errors.clear();
        reset();
        return std::nullopt;
    }
    if (command == "SYST:ERR?") {
        if (m_errors.empty()) {
            return "0,\"No error\"";
        }
        const std::string first = m_errors.front();
        m_errors.erase(m_errors.begin());
        return first;
    }
    if (command == "STAT:OPER:COND?") {
        // Bits of SCPI-99, volume 1, section 20.1: settling 1, measuring 4, waiting for a trigger 5; 9 is the device's.
        switch (state()) {
        case State::Idle:
            return "0";
        case State::WarmingUp:
            return std::to_string(1 << 1);
        case State::Running:
            return std::to_string(1 << 4);
        case State::Ready:
            return std::to_string(1 << 5);
        case State::Fault:
            return std::to_string(1 << 9);
        }
    }
    std::optional<std::string> answer;
    if (!takeOwn(command, argument, answer)) {
        complain(-113, "Undefined header");
        return command.ends_with("?") ? std::optional<std::string>("") : std::nullopt;
    }
    return answer;
}

double Device::content(int vial) const {
    if (m_settings.misbehaviour == Misbehaviour::EmptyVial) {
        return 0;
    }
    if (const auto found = m_settings.contents.find(vial); found != m_settings.contents.end()) {
        return found->second;
    }
    // Vial 1 is a blank, 2 to 7 are levels that double, the others hold what the seed says.
    constexpr int kLevels = 6;
    if (vial <= 1) {
        return 0;
    }
    if (vial <= 1 + kLevels) {
        return std::pow(2, vial - 2);
    }
    return 4 * std::exp(0.8 * normalNoise(m_settings.seed, static_cast<std::uint64_t>(vial)));
}

double Device::light() const {
    constexpr double kLossPerSecond = 0.1 / 600;
    return m_settings.misbehaviour == Misbehaviour::Drift ? std::max(0.1, 1 - kLossPerSecond * m_now) : 1;
}

std::unique_ptr<Device> makeDevice(const DeviceSettings& settings) {
    switch (settings.kind) {
    case DeviceKind::Chromatograph:
        return std::make_unique<Chromatograph>(settings);
    case DeviceKind::GasChromatograph:
        return std::make_unique<GasChromatograph>(settings);
    case DeviceKind::PlateReader:
        return std::make_unique<PlateReader>(settings);
    case DeviceKind::Spectrophotometer:
        return std::make_unique<Spectrophotometer>(settings);
    case DeviceKind::Potentiostat:
        return std::make_unique<Potentiostat>(settings);
    case DeviceKind::Autosampler:
        return std::make_unique<Autosampler>(settings);
    }
    return nullptr;
}

} // namespace nuvat
