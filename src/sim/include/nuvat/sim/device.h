#pragma once

#include "nuvat/core/base/error.h"

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

enum class DeviceKind { Chromatograph, PlateReader, Spectrophotometer, Potentiostat, Autosampler, GasChromatograph };
std::string_view name(DeviceKind kind); ///< "chromatograph", "plate-reader", …: as on the command line
std::optional<DeviceKind> deviceKindFromName(std::string_view text);

/// What a stand-in does wrong on purpose.
enum class Misbehaviour {
    None,
    Silent,    ///< no answer any more
    Slow,      ///< each answer seconds late
    Garbage,   ///< answers of arbitrary bytes
    Cut,       ///< the line is closed in the middle of an answer
    Drift,     ///< the lamp loses a tenth of its light in ten minutes
    Bubble,    ///< a spike in the detector half way through a run
    CarryOver, ///< a twentieth of the run before is left in each
    EmptyVial, ///< nothing is in the vials
};
std::string_view name(Misbehaviour what); ///< "none", "silent", …, "empty-vial"
std::optional<Misbehaviour> misbehaviourFromName(std::string_view text);
/// Whether it is one of the line, not of what is measured.
bool isOfLine(Misbehaviour what);

struct DeviceSettings {
    DeviceKind kind = DeviceKind::Chromatograph;
    std::uint64_t seed = 1;
    double warmUpSeconds = 0; ///< after it is switched on, of its own time
    Misbehaviour misbehaviour = Misbehaviour::None;
    /// Content of vials or wells by number from 1; of the others it is drawn by the seed.
    std::map<int, double> contents;
};

/// An instrument that speaks lines in the manner of SCPI. All it does follows from its settings, the lines it was given
/// and their times; docs/instruments.md has the commands.
class Device {
public:
    explicit Device(DeviceSettings settings);
    virtual ~Device() = default;

    /// Takes one line. @param seconds of its own time since it was switched on, never falling
    /// @return the answer to a query, nothing to a command. Errors wait in SYST:ERR?
    std::optional<std::string> take(std::string_view line, double seconds);

protected:
    enum class State { Idle, WarmingUp, Ready, Running, Fault };
    /// Numbers of a comma-separated list. @return nothing where one is none
    static std::optional<std::vector<double>> numbersOf(std::string_view list);

    /// Commands that a kind has of its own. @param query whether it ends in "?" @return whether it is known
    virtual bool takeOwn(std::string_view command, std::string_view argument, std::optional<std::string>& answer) = 0;
    virtual std::string model() const = 0;
    virtual State state() const = 0;
    virtual void reset() = 0;

    void complain(int code, std::string_view sentence);
    const DeviceSettings& settings() const { return m_settings; }
    double now() const { return m_now; }
    bool isWarm() const { return m_now >= m_settings.warmUpSeconds; }
    /// Content of a vial or well, with what the settings have it do wrong.
    double content(int vial) const;
    /// Light of a lamp that drifts, 1 of one that does not.
    double light() const;

private:
    DeviceSettings m_settings;
    double m_now = 0;
    std::vector<std::string> m_errors;
};

std::unique_ptr<Device> makeDevice(const DeviceSettings& settings);

} // namespace nuvat
