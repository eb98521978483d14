#pragma once

#include "nuvat/batch/command.h"
#include "nuvat/instrument/connection.h"

namespace nuvat {

/// What a plate is read by.
struct PlateRequest {
    std::vector<double> wavelengths = {450}; ///< [nm], each > 0
    int cycles = 1;                          ///< more than one: the plate is read again and again
    double interval = 60;                    ///< [s] from one cycle to the next
};

/// Reads a plate on a plate reader: its wells come one after the other, asked for by number, so that those which were
/// lost are asked for again.
class PlateReading : public QObject {
    Q_OBJECT
public:
    explicit PlateReading(Connection& line, QObject* parent = nullptr);

    void start(const PlateRequest& request);
    void stop(); ///< what was read is kept
    bool isRunning() const { return m_isRunning; }
    int rows() const { return m_rows; }
    int columns() const { return m_columns; }
    std::size_t wellsRead() const { return m_values.size(); }
    std::size_t wellsInAll() const;
    /// Value of a well in the cycle and at the wavelength that are being read, or were last; absent while it is not.
    std::optional<double> shownAt(int row, int column) const;
    double shownWavelength() const;
    /// The readings, one a wavelength and cycle; wells that did not come are empty. None before the first well.
    std::vector<Reading> readings(std::int64_t nowMillis) const;

Q_SIGNALS:
    void grown();
    /// All of it was read, or it was stopped.
    void finished();
    void failed(const nuvat::Error& error);

private:
    void ask();
    bool take(const std::string& answer);
    void end();
    void giveUp(const Error& error);
    std::size_t shownRead() const;

    Connection& m_line;
    QTimer m_poll;
    PlateRequest m_request;
    int m_rows = 0, m_columns = 0;
    std::vector<double> m_values; ///< by cycle, wavelength, row and column, as they come
    bool m_isRunning = false, m_isAsking = false, m_isDone = false;
    int m_garbled = 0, m_serial = 0;
};

} // namespace nuvat
