#include "panels/compare_view.h"

#include "models/columns_model.h"
#include "nuvat/batch/command.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "plots/compare_plot.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"

#include <algorithm>
#include <cmath>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QVBoxLayout>

namespace nuvat {

namespace {

constexpr double kWorthSayingPercent = 2; // changes below this are within what replicates scatter; common practice

/// "1/x2", as the command line writes it, as the window does.
QString withSquares(QString sentence) {
    for (const QChar of : {u'x', u'y', u's'}) {
        sentence.replace(QStringLiteral("1/") + of + u'2', QStringLiteral("1/") + of + u'²');
    }
    return sentence;
}

QString percent(const std::optional<double>& value) {
    if (!value) {
        return notDefined();
    }
    return std::abs(*value) > 1000 ? QObject::tr("over 1000") : shown(formatDecimals(*value, 1));
}

QString signedPercent(double value) {
    return (value > 0 ? QStringLiteral("+") : QString()) + percent(value) + QStringLiteral(" %");
}

/// A sample that is lost or gained stands before every change of a number.
double weightOf(const ResultChange& change) {
    return change.inUse.has_value() != change.other.has_value() ? HUGE_VAL : std::abs(change.changePercent.value_or(0));
}

} // namespace

CompareView::CompareView(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(frame::kGap);
    layout->addWidget(makeFitsCard(), 11);
    auto* below = new QHBoxLayout;
    below->setSpacing(frame::kGap);
    below->addWidget(makeCurvesCard(), 5);
    below->addWidget(makeChangesCard(), 4);
    layout->addLayout(below, 10);
    connect(&workspace, &Workspace::changed, this, [this] {
        m_isStale = true;
        if (isVisible()) {
            start();
        }
    });
}

QWidget* CompareView::makeFitsCard() {
    auto* card = new Card({}, this);
    card->body()->setContentsMargins(6, 4, 4, 6);
    const auto fit = [this](int row) -> const ComparedFit& { return m_fits.at(static_cast<std::size_t>(row)); };
    const auto look = [fit](int row, int role) {
        return role == cell::kBold    ? QVariant(fit(row).isInUse)
               : role == cell::kMuted ? QVariant(fit(row).candidate.rank == 0)
                                      : QVariant();
    };
    const auto delta = [this, fit](int row) {
        const auto& aicc = fit(row).candidate.fit.aicc;
        return fit(row).candidate.rank > 0 && aicc ? shown(formatDecimals(*aicc - m_lowestAicc, 1)) : notDefined();
    };
    const auto change = [this, fit](int row) -> QString {
        const ComparedFit& one = fit(row);
        const ResultChange* largest = one.largest();
        QStringList parts;
        if (largest != nullptr && *largest->changePercent != 0) {
            parts << text(shortName(m_workspace.batch(), largest->group)) + QStringLiteral(" ") +
                         signedPercent(*largest->changePercent);
        }
        if (one.lost > 0) {
            parts << tr("%1 lost").arg(one.lost);
        }
        return one.isInUse ? tr("in use") : parts.isEmpty() ? notDefined() : parts.join(QStringLiteral(", "));
    };
    m_model = new ColumnsModel(
        {{tr("Model"), false, -88, [fit](int row) { return text(modelTitle(fit(row).options.model)); }, look},
         {tr("Weighting"), false, -66,
          [fit](int row) {
              return isInterpolation(fit(row).options.model) ? notDefined()
                                                             : text(weightingTitle(fit(row).options.weighting));
          },
          look},
         {tr("Levels within"), true, 132,
          [fit](int row) {
              const auto& levels = fit(row).levelsWithin;
              return fit(row).candidate.fit.isUsable()
                         ? tr("%1 of %2").arg(std::count(levels.begin(), levels.end(), true)).arg(levels.size())
                         : notDefined();
          },
          [fit, look](int row, int role) {
              if (role != cell::kLevels) {
                  return look(row, role);
              }
              QVariantList marks;
              for (const bool isWithin : fit(row).levelsWithin) {
                  marks << isWithin;
              }
              return QVariant(marks);
          }},
         {tr("AICc, Δ"), true, 62, delta, look},
         {tr("Left out, %"), true, 84, [fit](int row) { return percent(fit(row).candidate.leftOutErrorPercent); },
          look},
         {tr("Worst, %"), true, 84, [fit](int row) { return percent(fit(row).candidate.worstErrorPercent); }, look},
         {tr("Largest change"), true, 0, change, look}},
        [this] { return static_cast<int>(m_fits.size()); }, this);
    m_table = new DataTable(m_model, QStringLiteral("compareTable"), card);
    m_table->setRowHeight(23);
    m_table->installEventFilter(this);
    card->body()->addWidget(m_table);
    m_state = makeLabel({}, "small", card);
    m_state->setObjectName(QStringLiteral("compareState"));
    m_state->setContentsMargins(8, 0, 0, 0);
    card->body()->addWidget(m_state);
    connect(m_table, &DataTable::rowChosen, this, &CompareView::lookAt);
    return card;
}

QWidget* CompareView::makeCurvesCard() {
    auto* card = new Card(tr("Both curves"), this);
    m_take = makeButton({}, "primary", QStringLiteral("compareTake"), card);
    card->titleRow()->addWidget(m_take);
    connect(m_take, &QPushButton::clicked, this, &CompareView::take);
    m_plot = new ComparePlot(card);
    card->body()->addWidget(m_plot, 1);
    m_checks = makeLabel({}, "small", card);
    m_checks->setObjectName(QStringLiteral("compareChecks"));
    m_checks->setWordWrap(true);
    card->body()->addWidget(m_checks);
    return card;
}

QWidget* CompareView::makeChangesCard() {
    auto* card = new Card({}, this);
    card->body()->setContentsMargins(6, 8, 4, 6);
    m_words = makeLabel({}, "small", card);
    m_words->setObjectName(QStringLiteral("compareWords"));
    m_words->setWordWrap(true);
    m_words->setContentsMargins(8, 0, 6, 0);
    card->body()->addWidget(m_words);
    const auto at = [this](int index) -> const ResultChange& { return m_changes.at(static_cast<std::size_t>(index)); };
    const auto figures = [](const std::optional<double>& value) {
        return value ? shown(formatFigures(*value, 4)) : QObject::tr("not reported");
    };
    m_changesModel = new ColumnsModel(
        {{tr("Place"), false, 84, [this, at](int i) { return text(shortName(m_workspace.batch(), at(i).group)); },
          [at](int i, int role) {
              return role == cell::kShape  ? QVariant(static_cast<int>(at(i).group.role))
                     : role == cell::kBold ? QVariant(true)
                                           : QVariant();
          }},
         {tr("In use"), true, 0, [at, figures](int i) { return figures(at(i).inUse); }},
         {tr("Looked at"), true, -78, [at, figures](int i) { return figures(at(i).other); }},
         {tr("Change"), true, -76,
          [at](int i) { return at(i).changePercent ? signedPercent(*at(i).changePercent) : notDefined(); }}},
        [this] { return static_cast<int>(m_changes.size()); }, this);
    auto* table = new DataTable(m_changesModel, QStringLiteral("changesTable"), card);
    table->setRowHeight(23);
    card->body()->addWidget(table);
    connect(table, &DataTable::rowChosen, this, [this, at](int i) { m_workspace.selectGroup(at(i).group); });
    return card;
}

void CompareView::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (m_isStale) {
        start();
    }
    m_table->setFocus();
}

bool CompareView::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_table && event->type() == QEvent::KeyPress) {
        const int pressed = static_cast<QKeyEvent*>(event)->key();
        if (pressed == Qt::Key_Return || pressed == Qt::Key_Enter) {
            take();
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

void CompareView::start() {
    if (m_progress) {
        m_progress->cancel();
    }
    m_isStale = false;
    const int run = ++m_run;
    m_state->setText(tr("Comparing …"));
    if (m_take->hasFocus()) {
        m_table->setFocus(); // not whatever comes after the button
    }
    m_take->setEnabled(false);
    m_progress = runJob<std::vector<ComparedFit>>(
        this,
        [batch = m_workspace.batch(), evaluation = m_workspace.evaluation()](Progress& progress)
            -> Result<std::vector<ComparedFit>> { return compareFits(batch, evaluation, progress); },
        [this, run](Result<std::vector<ComparedFit>> fits) {
            if (run == m_run && fits) {
                finish(std::move(*fits));
            } else if (run == m_run) {
                m_workspace.tell(fits.error());
                finish({});
            }
        });
}

void CompareView::finish(std::vector<ComparedFit> fits) {
    m_progress.reset();
    m_fits = std::move(fits);
    m_lowestAicc = HUGE_VAL;
    for (const ComparedFit& one : m_fits) {
        const bool counts = one.candidate.rank > 0 && one.candidate.fit.aicc;
        m_lowestAicc = counts ? std::min(m_lowestAicc, *one.candidate.fit.aicc) : m_lowestAicc;
    }
    m_changes.clear();
    m_model->refresh();
    m_changesModel->refresh();
    const auto ranked = std::count_if(m_fits.begin(), m_fits.end(), [](const auto& f) { return f.candidate.rank > 0; });
    m_state->setText(m_fits.empty() ? tr("No standards are in the fit yet; assign them under Layout.")
                                    : tr("%1 fits compared, %2 ranked by AICc; within 2 of the lowest the plainest is "
                                         "first. R² is never used to rank.")
                                          .arg(m_fits.size())
                                          .arg(ranked));
    lookAt(m_fits.empty() ? -1 : 0);
    m_table->showRow(m_row);
}

const ComparedFit* CompareView::lookedAt() const {
    return m_row < 0 || m_row >= static_cast<int>(m_fits.size()) ? nullptr : &m_fits[static_cast<std::size_t>(m_row)];
}

void CompareView::lookAt(int row) {
    m_row = row;
    const ComparedFit* one = lookedAt();
    m_changes = one == nullptr ? std::vector<ResultChange>() : one->changes;
    std::stable_sort(m_changes.begin(), m_changes.end(),
                     [](const auto& left, const auto& right) { return weightOf(left) > weightOf(right); });
    m_changesModel->refresh();
    m_take->setEnabled(one != nullptr && !one->isInUse && one->candidate.fit.isUsable());
    m_take->setText(one == nullptr ? tr("Take") : tr("Take %1").arg(text(fitTitle(one->options))));
    if (one == nullptr) {
        m_words->clear();
    } else if (one->isInUse) {
        m_words->setText(tr("%1 is the fit in use.").arg(text(fitTitle(one->options))) + u' ' +
                         withSquares(shown(one->candidate.sentence)));
    } else if (!one->candidate.fit.isUsable()) {
        m_words->setText(text(one->candidate.fit.message));
    } else {
        const auto changed = std::count_if(m_changes.begin(), m_changes.end(), [](const ResultChange& c) {
            return std::abs(c.changePercent.value_or(0)) >= kWorthSayingPercent;
        });
        QString words = tr("With %1, %2 of %3 samples change by 2 % or more")
                            .arg(text(fitTitle(one->options)))
                            .arg(changed)
                            .arg(m_changes.size());
        words += one->lost > 0 ? tr("; %1 would no longer be reported").arg(one->lost) : QString();
        words += one->gained > 0 ? tr("; %1 would be reported that now are not").arg(one->gained) : QString();
        m_words->setText(words + QStringLiteral(". ") + withSquares(shown(one->candidate.sentence)));
    }
    showCurves(one);
}

void CompareView::showCurves(const ComparedFit* one) {
    const bool isOther = one != nullptr && !one->isInUse;
    m_plot->setNames(tr("%1, in use").arg(text(fitTitle(m_workspace.analyte().fit))),
                     isOther ? tr("%1, looked at").arg(text(fitTitle(one->options))) : QString());
    m_plot->show(m_workspace.batch(), m_workspace.evaluation(), isOther ? &one->candidate.fit : nullptr);
    QStringList checks;
    for (const CriterionChange& change : one == nullptr ? std::vector<CriterionChange>() : one->criteria) {
        checks << tr("%1: %2 → %3, %4")
                      .arg(text(change.title), shown(change.foundInUse), shown(change.found),
                           text(outcomeWord(change.other)).toLower());
    }
    m_checks->setVisible(isOther && one->candidate.fit.isUsable());
    m_checks->setText(checks.isEmpty() ? tr("No check would change.")
                                       : tr("Checks it would change. ") + checks.join(QStringLiteral(" · ")));
}

void CompareView::take() {
    const ComparedFit* one = lookedAt();
    if (one == nullptr || !m_take->isEnabled()) {
        return;
    }
    Method method = m_workspace.newest().method;
    method.analyte(m_workspace.analyteNumber()).fit = one->options;
    m_workspace.apply(setMethod(m_workspace.newest(), method));
}

} // namespace nuvat
