#pragma once

#include "nuvat/sim/device.h"

#include <functional>

namespace nuvat {

/// An instrument whose readings grow: it is started, it may be triggered, and it is asked for what came since.
/// Commands: INIT, TRIG, ABOR, SENS:CHAN?, SENS:X?, SENS:TIME s, SENS:TIME?, FETC? n, ROUT:VIAL n, ROUT:DIL f.
/// FETC? n answers "first,count,state;x,y,…;x,y,…" with the samples from number n on, at most 400, in state R while it
/// goes on and D when there are no more.
class TraceDevice : public Device {
public:
    using Device::Device;

protected:
    bool takeOwn(std::string_view command, std::string_view argument, std::optional<std::string>& answer) override;
    State state() const override;
    void reset() override;

    virtual std::vector<std::string> channels() const = 0;
    virtual std::string xUnit() const = 0;
    virtual double rate() const = 0; ///< samples a second
    /// Number of samples of a run from its trigger on, or from its start where it needs none.
    virtual std::size_t length() const = 0;
    virtual bool needsTrigger() const = 0;
    /// x of a sample, counted from the trigger. @param i may be negative: before it
    virtual double xAt(long i) const = 0;
    virtual double valueAt(std::size_t channel, long i) const = 0;
    virtual bool takeSetting(std::string_view command, std::string_view argument, std::optional<std::string>& answer);

    int vial() const { return m_vial; }
    double dilution() const { return m_dilution; }
    int runs() const { return m_runs; }    ///< triggered so far, this one included
    double left() const { return m_left; } ///< content that the run before left behind
    void setSeconds(double seconds) { m_seconds = seconds; }
    double seconds() const { return m_seconds; }
    double contentNow() const { return content(m_vial) / m_dilution; }

private:
    std::size_t samplesNow() const;
    bool isDone() const;
    std::string fetch(std::size_t from) const;
    void start();
    void trigger();

    int m_vial = 1;
    double m_dilution = 1;
    double m_seconds = 600;
    std::optional<double> m_started, m_triggered, m_aborted;
    long m_before = 0; ///< samples before the trigger
    int m_runs = 0;
    double m_left = 0, m_leftNext = 0;
};

/// Liquid chromatograph with an autosampler: two detectors, 20 samples a second, ten minutes.
class Chromatograph : public TraceDevice {
public:
    using TraceDevice::TraceDevice;

protected:
    std::string model() const override { return "CHROMATOGRAPH"; }
    std::vector<std::string> channels() const override { return {"210 nm", "254 nm"}; }
    std::string xUnit() const override { return "min"; }
    double rate() const override { return 20; }
    std::size_t length() const override;
    bool needsTrigger() const override { return true; }
    double xAt(long i) const override;
    double valueAt(std::size_t channel, long i) const override;
};

/// Of the demo of esters: one detector, four esters and 1-propanol as internal standard, runs of nine minutes.
class GasChromatograph : public Chromatograph {
public:
    using Chromatograph::Chromatograph;

protected:
    std::string model() const override { return "GAS CHROMATOGRAPH"; }
    std::vector<std::string> channels() const override { return {"signal"}; }
    double valueAt(std::size_t channel, long i) const override;
};

/// Potentiostat: SENS:FUNC SWEEP, SQUARE or TIME; SENS:SWE from,to,rate; SENS:SQW from,to,step,frequency;
/// SENS:CHR seconds.
class Potentiostat : public TraceDevice {
public:
    using TraceDevice::TraceDevice;

protected:
    std::string model() const override { return "POTENTIOSTAT"; }
    std::vector<std::string> channels() const override { return {"current"}; }
    std::string xUnit() const override { return m_function == "TIME" ? "s" : "V"; }
    double rate() const override { return m_function == "SQUARE" ? m_frequency : 50; }
    std::size_t length() const override;
    bool needsTrigger() const override { return false; }
    double xAt(long i) const override;
    double valueAt(std::size_t channel, long i) const override;
    bool takeSetting(std::string_view command, std::string_view argument, std::optional<std::string>& answer) override;

private:
    std::string m_function = "SWEEP";
    double m_from = 0, m_to = 0.6, m_scan = 0.1; ///< [V], [V/s]
    double m_step = 0.004, m_frequency = 25;     ///< [V], [Hz]
    double m_chrono = 10;                        ///< [s]
};

/// Spectrophotometer: SENS:WAV nm with READ? for one value, SENS:SPEC from,to,step with INIT for a spectrum.
class Spectrophotometer : public TraceDevice {
public:
    using TraceDevice::TraceDevice;

protected:
    std::string model() const override { return "SPECTROPHOTOMETER"; }
    std::vector<std::string> channels() const override { return {"absorbance"}; }
    std::string xUnit() const override { return "nm"; }
    double rate() const override { return 50; }
    std::size_t length() const override;
    bool needsTrigger() const override { return false; }
    double xAt(long i) const override { return m_from + m_step * static_cast<double>(i); }
    double valueAt(std::size_t channel, long i) const override;
    bool takeSetting(std::string_view command, std::string_view argument, std::optional<std::string>& answer) override;

private:
    double absorbance(double wavelength, std::uint64_t index) const;
    double m_wavelength = 450;
    double m_from = 350, m_to = 700, m_step = 1;
    std::uint64_t m_reads = 0;
};

/// Plate reader of 8 x 12 wells: SENS:WAV nm,nm…; SENS:CYCL count,seconds; INIT; FETC? n gives "first,count,state;" and
/// rows "cycle,wavelength,row,column,value". Wells are read one after the other, twenty a second.
class PlateReader : public Device {
public:
    using Device::Device;

protected:
    std::string model() const override { return "PLATE READER"; }
    bool takeOwn(std::string_view command, std::string_view argument, std::optional<std::string>& answer) override;
    State state() const override;
    void reset() override;

private:
    std::size_t total() const;
    std::size_t readSoFar() const;
    std::string fetch(std::size_t from) const;
    double valueOf(std::size_t index) const;
    std::vector<double> m_wavelengths{450};
    int m_cycles = 1;
    double m_interval = 60;
    std::optional<double> m_started;
};

/// Autosampler with a diluting syringe: ROUT:VIAL n, ROUT:DIL f, ROUT:VOL µL, ROUT:FILL? n (1 where something is in the
/// vial), TRIG injects after a few seconds.
class Autosampler : public Device {
public:
    using Device::Device;

protected:
    std::string model() const override { return "AUTOSAMPLER"; }
    bool takeOwn(std::string_view command, std::string_view argument, std::optional<std::string>& answer) override;
    State state() const override;
    void reset() override;

private:
    int m_vial = 1;
    double m_dilution = 1, m_microlitres = 10;
    std::optional<double> m_busyUntil;
    bool m_isFaulty = false;
    int m_injections = 0;
};

} // namespace nuvat
