#pragma once

#include "panels/method_form.h"

namespace nuvat {

/// What is made of results: decision limits with the names of their classes, values derived by formula, the least
/// dilution.
class ResultSettings : public MethodForm {
    Q_OBJECT
public:
    ResultSettings(Workspace& workspace, QWidget* parent);

private:
    void refresh() override;
    bool takeLimits(const QString& typed);
    bool takeClasses(const QString& typed);
    bool takeDerived(const QString& typed);
    void takeCutOff();
    std::vector<double> negatives() const;
    TextField *m_limits, *m_classes, *m_derived;
    Choice* m_by;
    QWidget *m_classesRow, *m_byRow, *m_cutOffRow;
    NumberField* m_cutOffFactor;
    NumberField* m_least;
};

/// "0.45; 0.90", "0,45 0,90": numbers in a line. @return the first word that is none, as an error method.decisions
Result<std::vector<double>> numbersOfLine(const QString& line);
/// "Content [mg/g] = result * volume / mass; …" and back. @return method.derived for what is no such line
Result<std::vector<DerivedValue>> derivedOfLine(const QString& line);
QString lineOfDerived(const std::vector<DerivedValue>& derived);

} // namespace nuvat
