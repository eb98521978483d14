#pragma once

#include "session/acquisition.h"
#include "widgets/controls.h"

#include <array>

namespace nuvat {

class NumberField;

/// How an instrument stands, as a line of states of which one holds.
class StateLine : public QWidget {
    Q_OBJECT
public:
    explicit StateLine(QWidget* parent);
    void setState(InstrumentState state);
    InstrumentState state() const { return m_state; }
    QSize sizeHint() const override { return {400, 40}; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    InstrumentState m_state = InstrumentState::Absent;
};

/// The instrument above the traces: where it is, how it stands, and what is done with it.
class AcquireCard : public Card {
    Q_OBJECT
public:
    AcquireCard(Workspace& workspace, QWidget* parent);
    void refresh();
    void measure(); ///< the run that is looked at, or injects where one waits for it

private:
    void connectOrNot();
    QString progressText() const;

    Workspace& m_workspace;
    Acquisition& m_acquisition;
    QLabel *m_model, *m_progress;
    QLineEdit* m_place;
    NumberField* m_minutes;
    Switch* m_injects;
    StateLine* m_state;
    QPushButton *m_connect, *m_list, *m_run, *m_inject, *m_stop;
};

} // namespace nuvat
