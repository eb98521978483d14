#pragma once

#include "nuvat/instrument/plate_reading.h"
#include "session/workspace.h"

#include <QDialog>

class QLabel;
class QLineEdit;
class QPushButton;

namespace nuvat {

/// A plate that fills while it is read.
class PlateNow : public QWidget {
    Q_OBJECT
public:
    PlateNow(const PlateReading& reading, QWidget* parent);
    QSize sizeHint() const override { return {420, 280}; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    const PlateReading& m_reading;
};

/// Reads a plate from an instrument into the open batch: wavelengths, one read or several over time. It stands beside
/// the window, which goes on meanwhile; closed, it is hidden and the reading goes on.
class PlateReader : public QDialog {
    Q_OBJECT
public:
    PlateReader(Workspace& workspace, QWidget* parent);
    ~PlateReader() override;

private:
    void readOrStop();
    void begin();
    void take();
    void follow();
    std::optional<PlateRequest> request() const;

    Workspace& m_workspace;
    Connection m_line;
    PlateReading m_reading;
    std::string m_uid; ///< of the batch that it is read into
    bool m_wantsToBegin = false;
    QLineEdit *m_place, *m_wavelengths, *m_cycles, *m_interval;
    QLabel *m_state, *m_count;
    QPushButton* m_read;
    PlateNow* m_plate;
};

} // namespace nuvat
