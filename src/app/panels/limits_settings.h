#pragma once

#include "panels/method_form.h"

namespace nuvat {

/// The limits of the built-in criteria, each changed at once. A criterion whose limit is empty is not used.
class LimitsSettings : public MethodForm {
    Q_OBJECT
public:
    LimitsSettings(Workspace& workspace, QWidget* parent);
    /// The keyboard goes to the limit of a criterion. @return false when it has none of its own
    bool enterLimitOf(const std::string& criterion);

private:
    void makeStandards();
    void makeSamples();
    void makeSuitability();
    void refresh() override;
    NumberField* percent(const char* name, const QString& title, double CriteriaLimits::*limit);
    NumberField* percent(const char* name, const QString& title, std::optional<double> CriteriaLimits::*limit);

    std::vector<std::function<void(const CriteriaLimits&)>> m_fields; ///< show what holds
    std::vector<std::function<void(const SuitabilityLimits&)>> m_suitability;
    std::vector<QWidget*> m_suitabilityRows;
    Switch* m_blankBelow;
    QWidget* m_internalRow;
    QWidget *m_endsRow, *m_shareRow, *m_atLevelRow;
};

} // namespace nuvat
