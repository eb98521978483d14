#include "dialogs/method_dialogs.h"

#include "dialogs/form.h"
#include "nuvat/batch/command.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/formula/formula.h"
#include "nuvat/report/theme.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <array>
#include <QDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QVBoxLayout>

namespace nuvat {

namespace {

constexpr std::array kIntervals{IntervalMethod::Propagation, IntervalMethod::LogPropagation, IntervalMethod::Fieller,
                                IntervalMethod::Inversion,   IntervalMethod::Profile,        IntervalMethod::Bootstrap};
/// The number in a field; nothing for an empty one. Sets `isWrong` when it is no number.
std::optional<double> numberIn(const QLineEdit* field, bool& isWrong) {
    const std::string typed = field->text().trimmed().toStdString();
    if (typed.empty()) {
        return std::nullopt;
    }
    const auto value = parseTyped(typed);
    isWrong = isWrong || !value;
    return value;
}

/// The controls of the curve's settings, and back.
class CurveForm {
public:
    Choice *fitTo, *weightFrom, *interval, *average, *scatter, *rangeBy, *outliers;
    QLineEdit *heldA, *heldD, *fixedX, *fixedY, *theta, *floor, *confidence, *precision, *lloq, *uloq, *extrapolation,
        *best, *dilution;

    std::vector<int> readings{0}; ///< keys behind the list
    Choice* reading;

    CurveForm(Form& form, Form& right, const Batch& batch, const Analyte& analyte) {
        form.section(QObject::tr("Responses"));
        QStringList names{QObject::tr("the reading in use")};
        int current = 0;
        for (const auto& [key, one] : batch.readings) {
            current = key == analyte.reading ? static_cast<int>(readings.size()) : current;
            readings.push_back(key);
            names << QStringLiteral("%1 %2").arg(key).arg(text(one.readName.empty() ? one.source : one.readName));
        }
        reading = form.choice(QObject::tr("Taken from"), "analyteReading", names, current);
        form.section(QObject::tr("Fit"));
        fitTo =
            form.choice(QObject::tr("Fitted to"), "fitTo", {QObject::tr("each replicate"), QObject::tr("level means")},
                        static_cast<int>(analyte.fit.fitTo));
        weightFrom = form.choice(
            QObject::tr("y of the weights 1/y and 1/y²"), "weightFrom",
            {QObject::tr("response of the point"), QObject::tr("mean of its level"), QObject::tr("fitted response")},
            static_cast<int>(analyte.fit.weightFrom));
        theta =
            form.field(QObject::tr("Exponent of the variance function"), "theta", analyte.fit.theta,
                       QObject::tr("0: the same SD everywhere, 1: the same CV; empty: estimated from the replicates"),
                       QObject::tr("estimated"));
        floor = form.field(QObject::tr("Floor of y, share of the largest"), "weightFloor", analyte.fit.weightFloor,
                           QObject::tr("In 1/y and 1/y², y counts as at least this share of the largest; empty: found "
                                       "from the scatter"),
                           QObject::tr("from scatter"));
        heldA = form.field(QObject::tr("Response at zero, a, held at"), "heldA", analyte.fit.heldA,
                           QObject::tr("For the 4PL and 5PL; empty: fitted"), QObject::tr("fitted"));
        heldD = form.field(QObject::tr("Response at ∞, d, held at"), "heldD", analyte.fit.heldD,
                           QObject::tr("For the 4PL and 5PL; empty: fitted"), QObject::tr("fitted"));
        fixedX = form.field(QObject::tr("Fixed point, concentration"), "fixedX", analyte.fit.fixedX,
                            QObject::tr("For the line through a fixed point"));
        fixedY = form.field(QObject::tr("Fixed point, response"), "fixedY", analyte.fit.fixedY);
        makeRight(right, batch.method, analyte);
        enableWhatApplies(analyte.fit);
        QObject::connect(rangeBy, &QComboBox::currentIndexChanged, rangeBy,
                         [this, fit = analyte.fit] { enableWhatApplies(fit); });
    }

private:
    /// What the model, the weighting or the rule of the range does not use cannot be typed.
    void enableWhatApplies(const FitOptions& fit) {
        const bool isOfY = fit.weighting == Weighting::InverseY || fit.weighting == Weighting::InverseY2;
        weightFrom->setEnabled(isOfY);
        theta->setEnabled(fit.weighting == Weighting::Variance);
        floor->setEnabled(isOfY);
        heldA->setEnabled(isLogistic(fit.model));
        heldD->setEnabled(isLogistic(fit.model));
        fixedX->setEnabled(fit.model == Model::LineFixedPoint);
        fixedY->setEnabled(fit.model == Model::LineFixedPoint);
        const auto rule = static_cast<RangeBy>(rangeBy->currentIndex());
        precision->setEnabled(rule == RangeBy::Precision);
        lloq->setEnabled(rule == RangeBy::Hand);
        uloq->setEnabled(rule == RangeBy::Hand);
    }
    void makeRight(Form& form, const Method& method, const Analyte& analyte) {
        form.section(QObject::tr("Reading off"));
        QStringList intervals;
        for (const IntervalMethod one : kIntervals) {
            intervals << text(intervalTitle(one));
        }
        interval = form.choice(QObject::tr("Interval by"), "interval", intervals, static_cast<int>(analyte.interval),
                               QObject::tr("Fieller is for straight lines, profile and bootstrap are for logistics; "
                                           "propagation is used where the model does not know it"));
        confidence = form.field(QObject::tr("Confidence, %"), "confidence", 100 * method.confidence,
                                QObject::tr("Of every interval of the method"));
        scatter = form.choice(QObject::tr("Scatter of a sample"), "scatter",
                              {QObject::tr("of the batch's replicates"), QObject::tr("of the curve"),
                               QObject::tr("of its own replicates")},
                              static_cast<int>(analyte.scatter),
                              QObject::tr("Which scatter of readings stands in the interval of a sample"));
        average = form.choice(QObject::tr("Replicates of a sample"), "average",
                              {QObject::tr("average the concentrations"), QObject::tr("average the responses")},
                              static_cast<int>(analyte.average));
        dilution =
            form.field(QObject::tr("Uncertainty of a dilution, %"), "dilutionSe", 100 * method.dilutionRelativeSe,
                       QObject::tr("Relative standard uncertainty of a dilution factor"));
        form.section(QObject::tr("Range"));
        rangeBy = form.choice(QObject::tr("LLOQ and ULOQ"), "rangeBy",
                              {QObject::tr("from the criteria"), QObject::tr("from the precision"),
                               QObject::tr("by hand"), QObject::tr("all levels")},
                              static_cast<int>(analyte.range.by));
        precision = form.field(QObject::tr("Precision, %"), "precision", analyte.range.precisionPercent,
                               QObject::tr("Relative SE of a concentration, at most"));
        lloq = form.field(QObject::tr("LLOQ by hand"), "lloq", analyte.range.lloq, text(analyte.unit));
        uloq = form.field(QObject::tr("ULOQ by hand"), "uloq", analyte.range.uloq, text(analyte.unit));
        extrapolation = form.field(QObject::tr("Extrapolation factor"), "extrapolation", analyte.range.extrapolation,
                                   QObject::tr("1: none; results beyond the range are given and marked"));
        form.section(QObject::tr("Replicates of every group"));
        best = form.field(QObject::tr("Keep the best"), "keepBest", method.replicates.keepBest,
                          QObject::tr("The replicates with the smallest SD; 0: all"));
        outliers = form.choice(QObject::tr("Outlier test"), "outlierTest",
                               {QObject::tr("none"), QObject::tr("Grubbs, 5 %"), QObject::tr("Dixon, 5 %")},
                               static_cast<int>(method.replicates.outlierTest));
    }

public:
    /// @return the method as typed, or the sentence that says what is wrong
    Result<Method> read(const Method& before, int number) const {
        Method method = before;
        Analyte& analyte = method.analyte(number);
        bool isWrong = false;
        analyte.reading = readings[static_cast<std::size_t>(reading->currentIndex())];
        analyte.fit.fitTo = static_cast<FitTo>(fitTo->currentIndex());
        analyte.fit.weightFrom = static_cast<WeightFrom>(weightFrom->currentIndex());
        analyte.fit.heldA = numberIn(heldA, isWrong);
        analyte.fit.heldD = numberIn(heldD, isWrong);
        analyte.fit.fixedX = numberIn(fixedX, isWrong).value_or(0);
        analyte.fit.fixedY = numberIn(fixedY, isWrong).value_or(0);
        analyte.interval = kIntervals[static_cast<std::size_t>(interval->currentIndex())];
        analyte.average = static_cast<AverageOf>(average->currentIndex());
        analyte.scatter = static_cast<ScatterFrom>(scatter->currentIndex());
        analyte.fit.theta = numberIn(theta, isWrong);
        analyte.fit.weightFloor = numberIn(floor, isWrong);
        constexpr double kUsualConfidence = 95;
        method.confidence = numberIn(confidence, isWrong).value_or(kUsualConfidence) / 100;
        method.dilutionRelativeSe = numberIn(dilution, isWrong).value_or(0) / 100;
        constexpr double kUsualPrecision = 20;
        analyte.range = {static_cast<RangeBy>(rangeBy->currentIndex()),
                         numberIn(precision, isWrong).value_or(kUsualPrecision), numberIn(lloq, isWrong),
                         numberIn(uloq, isWrong), numberIn(extrapolation, isWrong).value_or(1)};
        const double keep = numberIn(best, isWrong).value_or(0);
        constexpr double kMostReplicates = 48;
        const bool isCount = keep == 0 || (keep >= 2 && keep <= kMostReplicates && keep == static_cast<int>(keep));
        method.replicates.keepBest = isCount ? static_cast<int>(keep) : 0;
        method.replicates.outlierTest = static_cast<OutlierTest>(outliers->currentIndex());
        if (isWrong) {
            return fail("dialog.not-a-number", "One of the fields is not a number.", "Correct it, or leave it empty.");
        }
        if (!isCount || !(method.dilutionRelativeSe >= 0)) {
            return fail("dialog.out-of-range",
                        "Keep the best takes 0 or a whole number from 2 on; an uncertainty is 0 or more.",
                        "Correct the field.");
        }
        if (analyte.range.by == RangeBy::Hand && (!analyte.range.lloq || !analyte.range.uloq)) {
            return fail("dialog.range-missing", "A range by hand needs LLOQ and ULOQ.", "Type both.");
        }
        return method;
    }
};

} // namespace

std::optional<Method> askCurveSettings(QWidget* parent, const Batch& batch, int analyte) {
    QDialog dialog(parent);
    const Frame frame = makeFrame(dialog, "curveDialog", QObject::tr("Fit, interval and range"), QObject::tr("Use"));
    Form left(&dialog);
    Form right(&dialog);
    const CurveForm curve(left, right, batch, batch.method.analyte(analyte));
    auto* columns = new QHBoxLayout;
    columns->setSpacing(36);
    for (const Form* form : {&left, &right}) {
        auto* column = new QVBoxLayout;
        column->addLayout(form->layout());
        column->addStretch();
        columns->addLayout(column);
    }
    frame.body->addLayout(columns);
    frame.body->addWidget(frame.wrong);
    frame.body->addLayout(frame.buttons);
    std::optional<Method> out;
    QObject::connect(frame.accept, &QPushButton::clicked, &dialog, [&] {
        Batch judge; // the same rules as the command's
        auto typed = curve.read(batch.method, analyte);
        if (typed) {
            if (const auto command = setMethod(judge, *typed); !command) {
                typed = tl::unexpected(command.error());
            }
        }
        if (!typed) {
            frame.wrong->setText(text(typed.error().text()));
            return;
        }
        out = std::move(*typed);
        dialog.accept();
    });
    curve.fitTo->setFocus();
    return dialog.exec() == QDialog::Accepted ? out : std::nullopt;
}

std::optional<Method> askCriterion(QWidget* parent, const Method& method) {
    QDialog dialog(parent);
    dialog.setMinimumWidth(560);
    const Frame frame = makeFrame(dialog, "criterionDialog", QObject::tr("Custom criterion"), QObject::tr("Use"));
    Form form(&dialog);
    form.section(QObject::tr("Custom criterion"));
    QStringList known{QObject::tr("a new one")};
    for (const Criterion& criterion : method.criteria) {
        known << text(criterion.title);
    }
    auto* which = form.choice(QObject::tr("Which"), "criterionWhich", known, 0);
    auto* title = form.line(QObject::tr("Title"), "criterionTitle", {});
    auto* scope = form.choice(QObject::tr("Asked of"), "criterionScope",
                              {QObject::tr("the batch"), QObject::tr("each analyte"), QObject::tr("each level"),
                               QObject::tr("each unknown"), QObject::tr("each QC")},
                              1);
    auto* quantity = form.line(QObject::tr("Quantity"), "criterionQuantity", {});
    quantity->setPlaceholderText(QObject::tr("a formula, for example abs(error)"));
    auto* comparison = form.choice(QObject::tr("Has to be"), "criterionComparison",
                                   {QObject::tr("at most"), QObject::tr("at least")}, 0);
    auto* limit = form.field(QObject::tr("Limit"), "criterionLimit", std::nullopt);
    auto* consequence = form.choice(QObject::tr("If not"), "criterionConsequence",
                                    {QObject::tr("the batch fails"), QObject::tr("it asks for review")}, 0);
    frame.body->addLayout(form.layout());
    auto* names = makeLabel({}, "small", &dialog);
    names->setObjectName(QStringLiteral("criterionNames"));
    names->setWordWrap(true);
    frame.body->addWidget(names);
    frame.body->addWidget(frame.wrong);
    auto* remove = makeButton(QObject::tr("Remove it"), "normal", QStringLiteral("criterionRemove"), &dialog);
    frame.buttons->insertWidget(0, remove);
    frame.body->addLayout(frame.buttons);

    const auto typed = [=] {
        Criterion out;
        out.title = title->text().trimmed().toStdString();
        out.scope = static_cast<CriterionScope>(scope->currentIndex());
        out.quantity = quantity->text().trimmed().toStdString();
        out.comparison = static_cast<Comparison>(comparison->currentIndex());
        out.limit = parseTyped(limit->text().toStdString()).value_or(0);
        out.asksForReview = consequence->currentIndex() == 1;
        return out;
    };
    const auto withTyped = [&] {
        Method out = method;
        const auto index = static_cast<std::size_t>(which->currentIndex());
        if (index == 0) {
            out.criteria.push_back(typed());
        } else {
            out.criteria[index - 1] = typed();
        }
        return out;
    };
    const auto judge = [&] {
        const Criterion criterion = typed();
        QStringList list;
        for (const CriterionVariable& variable : criterionVariables(criterion.scope)) {
            list << QStringLiteral("<b>%1</b> %2")
                        .arg(QString::fromLatin1(variable.name), QString::fromLatin1(variable.meaning));
        }
        names->setText(QObject::tr("Names: %1.").arg(list.join(QStringLiteral(" · "))));
        QString wrong;
        if (!criterion.quantity.empty()) {
            if (const auto command = setMethod(Batch{}, withTyped());
                !command && command.error().code == "criterion.formula") {
                wrong = text(command.error().message);
            }
        }
        const bool hasLimit = parseTyped(limit->text().toStdString()).has_value();
        frame.wrong->setText(wrong);
        frame.accept->setEnabled(wrong.isEmpty() && hasLimit && !criterion.title.empty() &&
                                 !criterion.quantity.empty());
    };
    const auto fill = [&](int index) {
        const Criterion c = index > 0 ? method.criteria[static_cast<std::size_t>(index) - 1] : Criterion{};
        title->setText(text(c.title));
        scope->setCurrentIndex(static_cast<int>(c.scope));
        quantity->setText(text(c.quantity));
        comparison->setCurrentIndex(static_cast<int>(c.comparison));
        limit->setText(index > 0 ? shown(formatNumber(c.limit)) : QString());
        consequence->setCurrentIndex(c.asksForReview ? 1 : 0);
        remove->setVisible(index > 0);
        judge();
    };
    QObject::connect(which, &QComboBox::activated, &dialog, fill);
    QObject::connect(scope, &QComboBox::activated, &dialog, judge);
    for (QLineEdit* field : {title, quantity, limit}) {
        QObject::connect(field, &QLineEdit::textChanged, &dialog, judge);
    }
    std::optional<Method> out;
    QObject::connect(frame.accept, &QPushButton::clicked, &dialog, [&] {
        out = withTyped();
        dialog.accept();
    });
    QObject::connect(remove, &QPushButton::clicked, &dialog, [&] {
        out = method;
        out->criteria.erase(out->criteria.begin() + which->currentIndex() - 1);
        dialog.accept();
    });
    fill(0);
    title->setFocus();
    return dialog.exec() == QDialog::Accepted ? out : std::nullopt;
}

} // namespace nuvat
