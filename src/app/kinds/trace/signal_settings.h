#pragma once

#include "kinds/trace/trace_look.h"
#include "panels/method_form.h"

namespace nuvat {

/// How peaks of the channel shown are found, in all runs at once.
class SignalSettings : public MethodForm {
    Q_OBJECT
public:
    SignalSettings(Workspace& workspace, QWidget* parent);

private:
    using SignalEdit = std::function<void(SignalRule&)>;
    void makeFinding();
    void makeBaseline();
    void makeFurther(LiveForm* form);
    bool changeSignal(const SignalEdit& edit);
    NumberField* signalNumber(LiveForm* form, const char* name, const QString& title,
                              const std::function<bool(SignalRule&, std::optional<double>)>& take,
                              const QString& whenEmpty = {});
    Switch* signalSwitch(LiveForm* form, const char* name, const QString& title, const QString& remark,
                         const std::function<void(SignalRule&, bool)>& edit);
    void takeIgnored();
    void takeStretches();
    void refresh() override;

    TraceLook& m_look;
    NumberField *m_height, *m_valley, *m_width, *m_area, *m_order, *m_lambda, *m_asymmetry, *m_skimRatio, *m_deadTime,
        *m_scanRate;
    Segments* m_heightIn;
    Choice *m_smoothing, *m_baseline, *m_skim;
    QLineEdit *m_ignored, *m_through;
    Switch *m_negative, *m_shoulders, *m_smoothedArea, *m_cathodic;
    QWidget *m_orderRow, *m_lambdaRow, *m_asymmetryRow, *m_throughRow, *m_skimRatioRow, *m_smoothedAreaRow,
        *m_scanRateRow, *m_cathodicRow;
};

/// Stretches as a person types them: "0 to 2.4; 5 to 6". @return nothing when it cannot be understood
std::optional<std::vector<Stretch>> stretchesFrom(const QString& typed);
QString stretchesText(const std::vector<Stretch>& stretches);

} // namespace nuvat
