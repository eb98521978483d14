// What each kind of instrument measures: invented, and the same for the same seed.
#include "kinds.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/signal/synthetic.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

/// Seed of the noise of one channel of one run.
std::uint64_t noiseSeed(std::uint64_t seed, int run, std::size_t channel) {
    return seed * 1'000'003 + static_cast<std::uint64_t>(run) * 97 + channel;
}

constexpr std::uint64_t kFarIndex = 1'000'000; // samples before the trigger have numbers below 0

std::uint64_t noiseIndex(long i) {
    return static_cast<std::uint64_t>(i + static_cast<long>(kFarIndex));
}

} // namespace

// Chromatograph: the analyte at 4 min, a companion at 5.2 min, an internal standard at 7 min that every vial holds.

std::size_t Chromatograph::length() const {
    return static_cast<std::size_t>(seconds() * rate());
}

double Chromatograph::xAt(long i) const {
    constexpr double kSecondsPerMinute = 60;
    return static_cast<double>(i) / rate() / kSecondsPerMinute;
}

double Chromatograph::valueAt(std::size_t channel, long i) const {
    constexpr std::array<double, 2> kAnalyte{40, 16}, kCompanion{12, 20}, kInternal{60, 45};
    const double minutes = xAt(i);
    const double amount = contentNow() + left();
    const double filled = settings().misbehaviour == Misbehaviour::EmptyVial ? 0 : 1;
    const double shift = 1 + 0.002 * normalNoise(settings().seed + 7, static_cast<std::uint64_t>(runs()));
    const std::array<SyntheticPeak, 4> peaks{
        SyntheticPeak{0.9 * shift, 0.03, 25 * filled, 0.01},
        SyntheticPeak{4.0 * shift, 0.05, kAnalyte[channel] * amount, 0.02},
        SyntheticPeak{5.2 * shift, 0.055, kCompanion[channel] * (0.4 * amount), 0.02},
        SyntheticPeak{7.0 * shift, 0.06, kInternal[channel] * filled, 0.02},
    };
    double value = 2 + 0.15 * minutes + 0.08 * normalNoise(noiseSeed(settings().seed, runs(), channel), noiseIndex(i));
    if (i >= 0) {
        value += syntheticSignal(peaks, minutes);
    }
    const bool isInBubble = settings().misbehaviour == Misbehaviour::Bubble &&
                            std::abs(minutes - seconds() / 120) < 0.02; // half way through
    return value * light() + (isInBubble ? 400 : 0);
}

// Gas chromatograph: a content of 10 is the highest level of each ester.

double GasChromatograph::valueAt(std::size_t channel, long i) const {
    struct Ester {
        double time, sigma, area; ///< [min], [min], at the highest level [pA min]
    };
    constexpr std::array<Ester, 4> kEsters{
        {{2.84, 0.034, 6}, {4.62, 0.04, 5.6}, {5.31, 0.041, 5.75}, {7.48, 0.048, 6.5}}};
    constexpr Ester kPropanol{3.62, 0.04, 5.5};
    constexpr double kTail = 0.45, kRootOfTwoPi = 2.5066282746310002, kHighest = 10;
    const double minutes = xAt(i);
    const double filled = settings().misbehaviour == Misbehaviour::EmptyVial ? 0 : 1;
    const double injected = filled * (1 + 0.03 * normalNoise(settings().seed + 3, static_cast<std::uint64_t>(runs())));
    std::vector<SyntheticPeak> peaks{{1.06, 0.05, 1400 * filled, 0.11}}; // the solvent
    const auto add = [&](const Ester& one, double share) {
        peaks.push_back(
            {one.time * 1.004, one.sigma, injected * share * one.area / (one.sigma * kRootOfTwoPi), kTail * one.sigma});
    };
    for (const Ester& ester : kEsters) {
        add(ester, (contentNow() + left()) / kHighest);
    }
    add(kPropanol, 1);
    const double noise = 0.035 * normalNoise(noiseSeed(settings().seed, runs(), channel), noiseIndex(i));
    return (6 + 0.55 * minutes + (i >= 0 ? syntheticSignal(peaks, minutes) : 0) + noise) * light();
}

// Potentiostat: a peak at 0.32 V on a rising ground.

std::size_t Potentiostat::length() const {
    const double span = std::abs(m_to - m_from);
    const double samples = m_function == "TIME"     ? m_chrono * rate()
                           : m_function == "SQUARE" ? span / m_step + 1
                                                    : span / m_scan * rate() + 1;
    return static_cast<std::size_t>(std::max(3.0, std::round(samples)));
}

double Potentiostat::xAt(long i) const {
    if (m_function == "TIME") {
        return static_cast<double>(i) / rate();
    }
    const double step = m_function == "SQUARE" ? m_step : m_scan / rate();
    return m_from + (m_to < m_from ? -step : step) * static_cast<double>(i);
}

double Potentiostat::valueAt(std::size_t channel, long i) const {
    const double amount = contentNow() + left();
    const double noise = 0.004 * normalNoise(noiseSeed(settings().seed, runs(), channel), noiseIndex(i));
    const double x = xAt(i);
    if (m_function == "TIME") {
        return 0.05 + amount / std::sqrt(x + 0.1) + noise; // Cottrell: the current falls with the root of time
    }
    const SyntheticPeak peak{0.32, 0.035, 1.2 * amount, 0};
    return 0.2 + 0.6 * std::exp((x - 0.6) / 0.15) + syntheticSignal({&peak, 1}, x) + noise;
}

bool Potentiostat::takeSetting(std::string_view command, std::string_view argument,
                               std::optional<std::string>& answer) {
    const auto numbers = numbersOf(argument);
    const auto has = [&](std::size_t count) { return numbers && numbers->size() == count; };
    if (command == "SENS:FUNC?") {
        answer = m_function;
    } else if (command == "SENS:FUNC") {
        const std::string wanted = upperCase(argument);
        if (wanted != "SWEEP" && wanted != "SQUARE" && wanted != "TIME") {
            complain(-224, "Illegal parameter value");
            return true;
        }
        m_function = wanted;
    } else if (command == "SENS:SWE" && has(3) && (*numbers)[2] > 0) {
        m_from = (*numbers)[0];
        m_to = (*numbers)[1];
        m_scan = (*numbers)[2];
    } else if (command == "SENS:SQW" && has(4) && (*numbers)[2] > 0 && (*numbers)[3] > 0) {
        m_from = (*numbers)[0];
        m_to = (*numbers)[1];
        m_step = (*numbers)[2];
        m_frequency = (*numbers)[3];
    } else if (command == "SENS:CHR" && has(1) && numbers->front() > 0) {
        m_chrono = numbers->front();
    } else {
        return false;
    }
    return true;
}

// Spectrophotometer: a band at 450 nm.

double Spectrophotometer::absorbance(double wavelength, std::uint64_t index) const {
    const SyntheticPeak band{450, 35, 0.06 * (contentNow() + left()), 0};
    const double drift = -std::log10(light());
    return 0.045 + syntheticSignal({&band, 1}, wavelength) + drift + 0.0008 * normalNoise(settings().seed, index);
}

std::size_t Spectrophotometer::length() const {
    return static_cast<std::size_t>(std::floor((m_to - m_from) / m_step + 1e-9)) + 1;
}

double Spectrophotometer::valueAt(std::size_t, long i) const {
    return absorbance(xAt(i), static_cast<std::uint64_t>(runs()) * 10'000 + noiseIndex(i));
}

bool Spectrophotometer::takeSetting(std::string_view command, std::string_view argument,
                                    std::optional<std::string>& answer) {
    const auto numbers = numbersOf(argument);
    if (command == "READ?") {
        if (!isWarm()) {
            complain(-221, "Settings conflict; the instrument is warming up");
            answer = "";
            return true;
        }
        answer = formatDecimals(absorbance(m_wavelength, ++m_reads), 4);
    } else if (command == "SENS:WAV?") {
        answer = formatNumber(m_wavelength);
    } else if (command == "SENS:WAV" && numbers && numbers->size() == 1 && numbers->front() > 0) {
        m_wavelength = numbers->front();
    } else if (command == "SENS:SPEC" && numbers && numbers->size() == 3 && (*numbers)[0] < (*numbers)[1] &&
               (*numbers)[2] > 0) {
        m_from = (*numbers)[0];
        m_to = (*numbers)[1];
        m_step = (*numbers)[2];
    } else {
        return false;
    }
    return true;
}

// Plate reader

namespace {
constexpr int kRows = 8, kColumns = 12;
constexpr double kWellsPerSecond = 20;
} // namespace

std::size_t PlateReader::total() const {
    return static_cast<std::size_t>(m_cycles) * m_wavelengths.size() * kRows * kColumns;
}

std::size_t PlateReader::readSoFar() const {
    if (!m_started) {
        return 0;
    }
    const std::size_t perCycle = m_wavelengths.size() * kRows * kColumns;
    const double elapsed = now() - *m_started;
    const double perCycleSeconds = std::max(static_cast<double>(perCycle) / kWellsPerSecond, m_interval);
    const auto cycle = static_cast<std::size_t>(elapsed / perCycleSeconds);
    const auto within = static_cast<std::size_t>(std::min(
        static_cast<double>(perCycle), (elapsed - static_cast<double>(cycle) * perCycleSeconds) * kWellsPerSecond));
    return std::min(total(), cycle * perCycle + within);
}

Device::State PlateReader::state() const {
    if (!isWarm()) {
        return State::WarmingUp;
    }
    return m_started && readSoFar() < total() ? State::Running : State::Idle;
}

void PlateReader::reset() {
    m_started.reset();
    m_wavelengths = {450};
    m_cycles = 1;
}

double PlateReader::valueOf(std::size_t index) const {
    const std::size_t well = index % (kRows * kColumns);
    const std::size_t read = index / (kRows * kColumns);
    const double wavelength = m_wavelengths[read % m_wavelengths.size()];
    const auto cycle = static_cast<double>(read / m_wavelengths.size());
    // Duplicates stand side by side: two columns are one content.
    const int vial = static_cast<int>(well / kColumns) + kRows * static_cast<int>(well % kColumns / 2) + 1;
    const SyntheticPeak band{450, 40, 0.05 * content(vial), 0};
    const double growth = m_cycles > 1 ? 0.2 + 0.8 * (1 - std::exp(-0.2 * cycle)) : 1;
    const double gain = 1 + 0.015 * normalNoise(settings().seed, well);
    return 0.05 + growth * gain * syntheticSignal({&band, 1}, wavelength) - std::log10(light()) +
           0.0015 * normalNoise(settings().seed + 1, index);
}

std::string PlateReader::fetch(std::size_t from) const {
    constexpr std::size_t kMost = 400;
    const std::size_t all = readSoFar();
    const std::size_t count = from < all ? std::min(kMost, all - from) : 0;
    std::string out = std::to_string(from) + "," + std::to_string(count) + "," + (from + count >= total() ? "D" : "R");
    for (std::size_t i = from; i < from + count; ++i) {
        const std::size_t well = i % (kRows * kColumns), read = i / (kRows * kColumns);
        out += ";" + std::to_string(read / m_wavelengths.size() + 1) + "," +
               formatNumber(m_wavelengths[read % m_wavelengths.size()]) + "," + std::to_string(well / kColumns + 1) +
               "," + std::to_string(well % kColumns + 1) + "," + formatDecimals(valueOf(i), 4);
    }
    return out;
}

bool PlateReader::takeOwn(std::string_view command, std::string_view argument, std::optional<std::string>& answer) {
    const auto numbers = numbersOf(argument);
    const auto arePositive = numbers && std::ranges::all_of(*numbers, [](double one) { return one > 0; });
    constexpr std::size_t kMostWavelengths = 8;
    constexpr double kMostCycles = 1000;
    if (command == "SENS:PLAT?") {
        answer = std::to_string(kRows) + "," + std::to_string(kColumns);
    } else if (command == "SENS:WAV" && arePositive && numbers->size() <= kMostWavelengths) {
        m_wavelengths = *numbers;
    } else if (command == "SENS:CYCL" && arePositive && numbers->size() == 2 && numbers->front() <= kMostCycles) {
        m_cycles = static_cast<int>(numbers->front());
        m_interval = (*numbers)[1];
    } else if (command == "SENS:WAV" || command == "SENS:CYCL") {
        complain(-222, "Data out of range");
    } else if (command == "INIT") {
        if (isWarm()) {
            m_started = now();
        } else {
            complain(-221, "Settings conflict; the instrument is warming up");
        }
    } else if (command == "ABOR") {
        m_started.reset();
    } else if (command == "FETC?" && numbers && numbers->front() >= 0) {
        answer = fetch(static_cast<std::size_t>(numbers->front()));
    } else {
        return false;
    }
    return true;
}

// Autosampler

Device::State Autosampler::state() const {
    if (m_isFaulty) {
        return State::Fault;
    }
    if (!isWarm()) {
        return State::WarmingUp;
    }
    return m_busyUntil && now() < *m_busyUntil ? State::Running : State::Ready;
}

void Autosampler::reset() {
    m_vial = 1;
    m_dilution = 1;
    m_busyUntil.reset();
    m_isFaulty = false;
}

bool Autosampler::takeOwn(std::string_view command, std::string_view argument, std::optional<std::string>& answer) {
    constexpr double kInjectionSeconds = 15, kDilutionSeconds = 40;
    const auto numbers = numbersOf(argument);
    const bool isPositive = numbers && numbers->front() > 0;
    const bool isEmpty = settings().misbehaviour == Misbehaviour::EmptyVial;
    if (command == "ROUT:VIAL" && isPositive) {
        m_vial = static_cast<int>(numbers->front());
    } else if (command == "ROUT:VIAL?") {
        answer = std::to_string(m_vial);
    } else if (command == "ROUT:DIL" && isPositive && numbers->front() >= 1) {
        m_dilution = numbers->front();
    } else if (command == "ROUT:DIL?") {
        answer = formatNumber(m_dilution);
    } else if (command == "ROUT:VOL" && isPositive) {
        m_microlitres = numbers->front();
    } else if (command == "ROUT:VOL?") {
        answer = formatNumber(m_microlitres);
    } else if (command == "ROUT:FILL?") {
        answer = isEmpty ? "0" : "1";
    } else if (command == "ROUT:COUN?") {
        answer = std::to_string(m_injections);
    } else if (command == "TRIG") {
        if (isEmpty) {
            m_isFaulty = true;
            complain(301, "Vial " + std::to_string(m_vial) + " is empty");
        } else {
            m_busyUntil = now() + kInjectionSeconds + (m_dilution > 1 ? kDilutionSeconds : 0);
            ++m_injections;
        }
    } else if (command.starts_with("ROUT:") && !command.ends_with("?")) {
        complain(-222, "Data out of range");
    } else {
        return false;
    }
    return true;
}

} // namespace nuvat
