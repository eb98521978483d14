#pragma once

#include "kinds/trace/trace_look.h"
#include "panels/method_form.h"

namespace nuvat {

/// What is taken of a trace for the analyte shown: a peak where it is expected, or a point or stretch.
class PeakRuleSettings : public MethodForm {
    Q_OBJECT
public:
    PeakRuleSettings(Workspace& workspace, QWidget* parent);

private:
    enum Kind { Peak, Value, Mean, Difference, Slope, InUse };
    void takeName();
    void makePeak();
    void makeBand();
    void setKind(int kind);
    /// Changes the peak rule of the analyte; nothing where it has another.
    bool changePeak(const std::function<void(PeakRule&)>& edit);
    bool changeBand(const std::function<void(BandRule&)>& edit);
    static int kindOf(const ResponseRule& rule);
    void refresh() override;
    void showPeak(const PeakRule& rule);

    TraceLook& m_look;
    QLineEdit* m_name;
    Choice *m_kind, *m_channel, *m_quantity, *m_pick, *m_reference;
    Segments* m_windowOf;
    NumberField *m_factor, *m_expected, *m_window, *m_from, *m_to;
    Switch* m_anyway;
    QWidget *m_factorRow, *m_channelRow, *m_expectedRow, *m_windowRow, *m_quantityRow, *m_pickRow, *m_referenceRow,
        *m_anywayRow, *m_fromRow, *m_toRow;
};

} // namespace nuvat
