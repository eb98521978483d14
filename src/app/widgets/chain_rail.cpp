#include "widgets/chain_rail.h"

#include "kinds/reading_kind.h"

#include "nuvat/batch/verdict.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "nuvat/report/report_file.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <cmath>
#include <QPainter>
#include <QTimer>
#include <QVariantAnimation>
#include <QVBoxLayout>

namespace nuvat {

namespace {

LinkSummary dataSummary(const Batch& batch, const AnalyteEvaluation& evaluation) {
    if (batch.firstReading(evaluation.analyte) == nullptr) {
        return {QObject::tr("no reading yet"), LinkState::Nothing};
    }
    const auto unusable = std::count_if(evaluation.responses.begin(), evaluation.responses.end(),
                                        [](const Response& value) { return !value.raw && !value.why.empty(); });
    QString line = counted(batch.readings.size(), QObject::tr("reading"), QObject::tr("readings")) +
                   QStringLiteral(" · ") + text(countOfPlaces(batch, placesOf(batch)));
    if (unusable > 0) {
        line = QObject::tr("%1 · %2 unusable").arg(text(countOfPlaces(batch, placesOf(batch)))).arg(unusable);
    }
    return {line, unusable > 0 ? LinkState::Look : LinkState::Fine};
}

LinkSummary layoutSummary(const Batch& batch, const PlaceIndex& index, const AnalyteEvaluation& evaluation) {
    if (batch.places.empty()) {
        return {QObject::tr("no roles yet"), LinkState::Nothing};
    }
    QStringList parts;
    parts << counted(evaluation.levels.size(), QObject::tr("level"), QObject::tr("levels"));
    if (const auto n = index.groupsOf(Role::Qc).size(); n > 0) {
        parts << QObject::tr("%1 QC").arg(n);
    }
    parts << counted(index.numbersOf(Role::Unknown).size(), QObject::tr("unknown"), QObject::tr("unknowns"));
    const bool isMissing = std::any_of(evaluation.levels.begin(), evaluation.levels.end(),
                                       [](const LevelValue& level) { return !level.x; });
    const bool incomplete = !evaluation.isOnlyInternal &&
                            (isMissing || analyteOf(batch, evaluation).unit.empty() || evaluation.levels.empty());
    return {parts.join(QStringLiteral(" · ")), incomplete ? LinkState::Look : LinkState::Fine};
}

LinkSummary responseSummary(const Batch& batch, const AnalyteEvaluation& evaluation) {
    if (batch.firstReading(evaluation.analyte) == nullptr || batch.places.empty()) {
        return {QObject::tr("nothing to show yet"), LinkState::Nothing};
    }
    if (!batch.method.subtractsBlank) {
        return {QObject::tr("blank not subtracted"), LinkState::Fine};
    }
    if (!evaluation.blank.description.mean) {
        return {QObject::tr("no usable blank"), LinkState::Look};
    }
    if (evaluation.blanks.size() > 1) { // of each plate its own: one number would be none of theirs
        return {QObject::tr("%1 blanks subtracted").arg(evaluation.blanks.size()), LinkState::Fine};
    }
    return {QObject::tr("blank %1 subtracted").arg(shown(formatFigures(evaluation.blank.subtracted, 3))),
            LinkState::Fine};
}

LinkSummary curveSummary(const Batch& batch, const AnalyteEvaluation& evaluation) {
    const Fit& fit = evaluation.fit;
    if (analyteOf(batch, evaluation).source.curve == CurveOf::None) {
        return {QObject::tr("none: the response is the result"), LinkState::Fine};
    }
    if (evaluation.isOnlyInternal) {
        return {QObject::tr("internal standard, no curve"), LinkState::Fine};
    }
    if (evaluation.levels.empty() || batch.firstReading(evaluation.analyte) == nullptr) {
        return {QObject::tr("no standards yet"), LinkState::Nothing};
    }
    if (!fit.isUsable()) {
        return {QObject::tr("no curve"), LinkState::Failed};
    }
    QString model = text(modelTitle(fit.model));
    if (fit.model == Model::Logistic4) {
        model = QStringLiteral("4PL");
    } else if (fit.model == Model::Logistic5) {
        model = QStringLiteral("5PL");
    } else if (fit.model == Model::LineThroughOrigin) {
        model = QObject::tr("Line, origin");
    }
    QString line = model;
    if (fit.weighting != Weighting::None && !isInterpolation(fit.model)) {
        line += QStringLiteral(" · ") + text(weightingTitle(fit.weighting));
    }
    if (fit.rSquared) {
        line += QStringLiteral(" · R² ") + shown(formatDecimals(*fit.rSquared, 4));
    }
    return {line, fit.warnings.empty() ? LinkState::Fine : LinkState::Look};
}

LinkSummary checksSummary(const Evaluation& evaluation) {
    if (evaluation.verdict == Outcome::NotApplicable) {
        return {QObject::tr("nothing to check yet"), LinkState::Nothing};
    }
    const CriteriaCounts counts = countCriteria(evaluation);
    QString line = QObject::tr("%1 met").arg(counts.met);
    if (counts.failed > 0) {
        line += QObject::tr(" · %1 failed").arg(counts.failed);
    }
    if (counts.review > 0) {
        line += QObject::tr(" · %1 to review").arg(counts.review);
    }
    if (counts.overridden > 0) {
        line += QObject::tr(" · %1 overridden").arg(counts.overridden);
    }
    return {line, evaluation.verdict == Outcome::Fail     ? LinkState::Failed
                  : evaluation.verdict == Outcome::Review ? LinkState::Look
                                                          : LinkState::Fine};
}

LinkSummary resultsSummary(const AnalyteEvaluation& evaluation) {
    std::size_t reported = 0;
    std::size_t below = 0;
    std::size_t above = 0;
    std::size_t none = 0;
    std::size_t notFound = 0; // nothing of it in the sample: an answer, not a failure
    bool look = false;
    for (const SampleResult& r : evaluation.results) {
        if (r.group.role != Role::Unknown) {
            continue;
        }
        reported += r.status == ResultStatus::Reported || r.status == ResultStatus::Extrapolated ? 1u : 0u;
        below += r.status == ResultStatus::BelowRange || r.status == ResultStatus::BelowCurve ? 1u : 0u;
        above += r.status == ResultStatus::AboveRange || r.status == ResultStatus::AboveCurve ? 1u : 0u;
        const bool isWithoutPeak = isNotFound(r), isWaiting = isNotRead(r);
        notFound += isWithoutPeak ? 1u : 0u;
        none += !isWithoutPeak && !isWaiting &&
                        (r.status == ResultStatus::NotDefined || r.status == ResultStatus::AcrossLimit)
                    ? 1u
                    : 0u;
        look = look || r.needsReview;
    }
    if (reported + below + above == 0 && evaluation.levels.empty()) {
        return {QObject::tr("no curve yet"), LinkState::Nothing};
    }
    if (reported + below + above + none == 0 && notFound > 0) {
        return {QObject::tr("%1 not found").arg(notFound), LinkState::Fine};
    }
    if (reported + below + above == 0) {
        return {none > 0 ? QObject::tr("no results") : QObject::tr("no unknowns yet"),
                none > 0 ? LinkState::Failed : LinkState::Nothing};
    }
    QString line = QObject::tr("%1 reported").arg(reported);
    if (above > 0 && below > 0) {
        line += QObject::tr(" · %1 outside").arg(above + below);
    } else if (above + below > 0) {
        line += above > 0 ? QObject::tr(" · %1 above").arg(above) : QObject::tr(" · %1 below").arg(below);
    }
    return {line, look || none > 0 ? LinkState::Look : LinkState::Fine};
}

} // namespace

LinkSummary summarise(ChainPage page, const Batch& batch, const Evaluation& whole, int analyte, int reportPages,
                      const ReadingKind& kind) {
    const AnalyteEvaluation& evaluation = whole.analyte(analyte);
    if (const QString own = kind.summary(page, batch, whole, analyte); !own.isEmpty()) {
        const bool isMissing =
            page == ChainPage::Response && std::ranges::any_of(evaluation.responses, [](const Response& one) {
                return one.state == ResponseState::Unusable;
            });
        return {own, isMissing ? LinkState::Look : LinkState::Fine};
    }
    switch (page) {
    case ChainPage::Data:
        return dataSummary(batch, evaluation);
    case ChainPage::Layout:
        return layoutSummary(batch, *whole.index, evaluation);
    case ChainPage::Response:
        return responseSummary(batch, evaluation);
    case ChainPage::Curve:
        return curveSummary(batch, evaluation);
    case ChainPage::Checks:
        return checksSummary(whole);
    case ChainPage::Results:
        return resultsSummary(evaluation);
    case ChainPage::Report:
        break;
    }
    const bool hasCurve = evaluation.fit.isUsable() || analyteOf(batch, evaluation).source.curve == CurveOf::None;
    if (evaluation.results.empty() || !hasCurve) {
        return {QObject::tr("nothing to report yet"), LinkState::Nothing};
    }
    if (reportPages == 0) {
        return {QObject::tr("being laid out"), LinkState::Fine};
    }
    return {counted(static_cast<std::size_t>(reportPages), QObject::tr("page"), QObject::tr("pages")), LinkState::Fine};
}

ChainCard::ChainCard(ChainPage page, Workspace& workspace, QWidget* parent)
    : QAbstractButton(parent), m_page(page), m_workspace(workspace) {
    setCheckable(true);
    setAutoExclusive(true);
    setFocusPolicy(Qt::StrongFocus);
    setText(pageTitle(page));
    setObjectName(QStringLiteral("chain%1").arg(pageTitle(page)));
    setToolTip(tr("Ctrl+%1").arg(static_cast<int>(page) + 1));
    setCursor(Qt::PointingHandCursor);
}

void ChainCard::refresh(int reportPages) {
    const ReadingKind& kind = kindOf(m_workspace.batch(), m_workspace.carrierNumber());
    const LinkSummary next = summarise(m_page, m_workspace.batch(), m_workspace.wholeEvaluation(),
                                       m_workspace.analyteNumber(), reportPages, kind);
    const bool isNew = next.line != m_summary.line || next.state != m_summary.state;
    m_isPictureStale = true;
    m_summary = next;
    setAccessibleName(pageTitle(m_page));
    setAccessibleDescription(next.line);
    if (isNew && isVisible()) {
        light();
    }
    update();
}

void ChainCard::light() {
    auto* animation = new QVariantAnimation(this);
    animation->setStartValue(1.0);
    animation->setEndValue(0.0);
    animation->setDuration(700);
    connect(animation, &QVariantAnimation::valueChanged, this, [this](const QVariant& value) {
        m_glow = value.toDouble();
        update();
    });
    animation->start(QAbstractAnimation::DeleteWhenStopped);
}

void ChainCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme();
    if (isChecked()) {
        painter.fillRect(rect(), t.card);
        painter.fillRect(QRect(0, 0, 4, height()), t.plum);
    } else if (underMouse()) {
        painter.fillRect(rect(), t.field);
    }
    if (m_glow > 0) {
        QColor glow = t.plumSoft;
        glow.setAlphaF(static_cast<float>(m_glow));
        painter.fillRect(rect().adjusted(isChecked() ? 4 : 0, 0, 0, 0), glow);
    }
    painter.setFont(uiFont(13, QFont::Bold));
    painter.setPen(t.ink);
    painter.drawText(QRectF(20, 7, width() - 50, 18), Qt::AlignLeft | Qt::AlignVCenter, pageTitle(m_page));
    painter.setFont(uiFont(12));
    painter.setPen(t.mute);
    painter.drawText(QRectF(20, 24, width() - 26, 18), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(m_summary.line, Qt::ElideRight, width() - 26));
    // State: disc fine, triangle look here, square failed, ring nothing yet.
    const QPointF centre(width() - 17, 17);
    painter.setPen(Qt::NoPen);
    switch (m_summary.state) {
    case LinkState::Fine:
        painter.setBrush(t.pine);
        painter.drawEllipse(centre, 4, 4);
        break;
    case LinkState::Look:
        painter.setBrush(t.saffron);
        painter.drawPolygon(QPolygonF({centre + QPointF(0, -4.6), centre + QPointF(5, 4), centre + QPointF(-5, 4)}));
        break;
    case LinkState::Failed:
        painter.setBrush(t.brick);
        painter.drawRect(QRectF(centre.x() - 4, centre.y() - 4, 8, 8));
        break;
    case LinkState::Nothing:
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(t.mute, 1.2));
        painter.drawEllipse(centre, 3.5, 3.5);
        break;
    }
    painter.drawPixmap(QPoint(20, 45), picture(QSize(130, height() - 54)));
    if (hasFocus()) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(t.plum, 1, Qt::DotLine));
        painter.drawRect(QRectF(rect()).adjusted(6.5, 2.5, -3.5, -3.5));
    }
}

std::vector<QColor> ChainCard::wellColours() const {
    const Theme& t = theme();
    const AnalyteEvaluation& evaluation = m_workspace.evaluation();
    double low = 1e300;
    double high = -1e300;
    for (const Response& value : evaluation.responses) {
        low = value.raw ? std::min(low, *value.raw) : low;
        high = value.raw ? std::max(high, *value.raw) : high;
    }
    const auto colour = [&](Place place) {
        if (m_page == ChainPage::Layout) {
            const Role role = m_workspace.batch().at(place).role;
            return role == Role::Empty ? t.field : t.role(role);
        }
        const auto raw = evaluation.at(place).raw;
        return raw ? t.heat(high > low ? (*raw - low) / (high - low) : 0.5) : t.field;
    };
    std::vector<QColor> out;
    if (m_page == ChainPage::Data || m_page == ChainPage::Layout) {
        const Carrier& carrier = m_workspace.carrier();
        for (int row = 0; row < carrier.rows; ++row) {
            for (int column = 0; column < carrier.columns; ++column) {
                out.push_back(colour({row, column, m_workspace.carrierNumber()}));
            }
        }
    }
    return out;
}

/// The places of the carrier that is shown.
void ChainCard::drawWells(QPainter& painter, const QRectF& area) const {
    const Carrier& carrier = m_workspace.carrier();
    constexpr double kLargest = 11;
    constexpr double kFlat = 5; // below it corners cannot be seen
    const int columns = kindOf(carrier.kind).columnsOfPicture(carrier);
    const int rows = (static_cast<int>(carrier.size()) + columns - 1) / columns;
    const double w = std::min(area.width() / columns, kLargest);
    const double h = std::min(area.height() / rows, w * 0.6);
    const double gap = w < kFlat ? 0.3 * w : 1.2;
    for (std::size_t i = 0; i < m_wells.size(); ++i) {
        const auto row = static_cast<int>(i) / columns;
        const auto column = static_cast<int>(i) % columns;
        const QRectF well(area.left() + column * w, area.top() + row * h, w - gap, h - std::min(gap, 0.3 * h));
        if (w < kFlat) {
            painter.fillRect(well, m_wells[i]);
        } else {
            painter.setBrush(m_wells[i]);
            painter.drawRoundedRect(well, 1, 1);
        }
    }
}

QPixmap ChainCard::picture(QSize size) {
    const QSize pixels = size * devicePixelRatioF();
    std::vector<QColor> wells = m_isPictureStale ? wellColours() : std::vector<QColor>();
    const bool isSame = m_picture.size() == pixels && (!m_isPictureStale || (!wells.empty() && wells == m_wells));
    m_isPictureStale = false;
    if (isSame) {
        return m_picture;
    }
    if (!wells.empty()) {
        m_wells = std::move(wells);
    }
    m_picture = QPixmap(pixels);
    m_picture.setDevicePixelRatio(devicePixelRatioF());
    m_picture.fill(Qt::transparent);
    QPainter painter(&m_picture);
    painter.setRenderHint(QPainter::Antialiasing);
    drawPicture(painter, QRectF(1, 1, size.width() - 2, size.height() - 2));
    return m_picture;
}

void ChainCard::drawPicture(QPainter& painter, const QRectF& area) const {
    const Theme& t = theme();
    const Batch& batch = m_workspace.batch();
    const AnalyteEvaluation& evaluation = m_workspace.evaluation();
    if (kindOf(batch, m_workspace.carrierNumber()).drawPicture(m_page, painter, area, m_workspace)) {
        return;
    }
    painter.setPen(Qt::NoPen);
    switch (m_page) {
    case ChainPage::Data:
    case ChainPage::Layout:
        drawWells(painter, area);
        break;
    case ChainPage::Response: {
        double most = 0;
        for (const GroupValue& group : evaluation.groups) {
            most = std::max(most, group.response.mean.value_or(0));
        }
        const double w =
            std::min(6.0, area.width() / static_cast<double>(std::max<std::size_t>(evaluation.groups.size(), 1)));
        double x = area.left();
        for (const GroupValue& group : evaluation.groups) {
            const double h = most > 0 ? std::max(0.0, group.response.mean.value_or(0)) / most * area.height() : 0;
            painter.setBrush(t.role(group.group.role));
            painter.drawRect(QRectF(x, area.bottom() - h, w * 0.7, h));
            x += w;
        }
        break;
    }
    case ChainPage::Curve: {
        FigureOptions options;
        options.hasAxes = false;
        options.hasBand = false;
        options.lineWidth = 2;
        drawCalibration(painter, area, batch, evaluation, t, options);
        break;
    }
    case ChainPage::Checks: {
        double x = area.left();
        for (const CriterionResult& criterion : evaluation.criteria) {
            painter.setBrush(criterion.outcome == Outcome::NotApplicable ? t.line
                             : criterion.outcome == Outcome::Review      ? t.saffron
                                                                         : t.outcome(criterion.outcome));
            painter.drawRoundedRect(QRectF(x, area.top() + 6, 10, 16), 2.5, 2.5);
            x += 13;
        }
        break;
    }
    case ChainPage::Results: {
        painter.setPen(QPen(t.line, 1));
        painter.drawLine(area.bottomLeft(), area.bottomRight());
        painter.setPen(Qt::NoPen);
        if (!evaluation.fit.isUsable()) {
            break;
        }
        const CurveShape shape = curveShape(batch, evaluation, 2);
        int index = 0;
        for (const SampleResult& result : evaluation.results) {
            if (result.group.role != Role::Unknown || !result.readOff.x || *result.readOff.x <= 0) {
                continue;
            }
            const double share = shape.isLogarithmic
                                     ? std::log(*result.readOff.x / shape.xLow) / std::log(shape.xHigh / shape.xLow)
                                     : (*result.readOff.x - shape.xLow) / (shape.xHigh - shape.xLow);
            if (share > 0 && share < 1) {
                const double y = area.bottom() - 5 - (index % 6) * (area.height() - 8) / 6;
                painter.setBrush(result.needsReview ? t.saffron : t.slate);
                painter.drawEllipse(QPointF(area.left() + share * area.width(), y), 2.4, 2.4);
            }
            ++index;
        }
        break;
    }
    case ChainPage::Report: {
        const int pages =
            m_summary.state == LinkState::Nothing ? 1 : std::clamp(m_summary.line.section(u' ', 0, 0).toInt(), 1, 4);
        for (int page = 0; page < pages; ++page) {
            const QRectF sheet(area.left() + page * 32, area.top(), 27, 36);
            painter.setPen(QPen(t.line, 1));
            painter.setBrush(t.card);
            painter.drawRect(sheet);
            if (m_summary.state == LinkState::Nothing) {
                continue;
            }
            painter.setPen(QPen(t.line, 2));
            for (int line = 0; line < 5; ++line) {
                painter.drawLine(QPointF(sheet.left() + 4, sheet.top() + 6 + line * 6),
                                 QPointF(sheet.right() - (line == 0 ? 12 : 4), sheet.top() + 6 + line * 6));
            }
        }
        break;
    }
    }
}

ChainRail::ChainRail(Workspace& workspace, QWidget* parent) : QFrame(parent) {
    setObjectName(QStringLiteral("rail"));
    setFixedWidth(frame::kRail);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 8, 0, 8);
    layout->setSpacing(0);
    for (int i = 0; i < kChainPages; ++i) {
        auto* card = new ChainCard(static_cast<ChainPage>(i), workspace, this);
        card->setMinimumHeight(64);
        card->setMaximumHeight(98);
        card->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Expanding);
        connect(card, &QAbstractButton::clicked, this, [this, card] { Q_EMIT chosen(card->page()); });
        layout->addWidget(card, 1);
        m_cards.push_back(card);
    }
    layout->addStretch(0);
    const ReportLayout& report = workspace.report();
    const auto refresh = [this, &report] {
        for (ChainCard* card : m_cards) {
            card->refresh(report.pageCount());
        }
    };
    connect(&workspace, &Workspace::changed, this, refresh);
    connect(&workspace, &Workspace::carrierChanged, this, refresh);
    connect(&report, &ReportLayout::changed, this,
            [this, &report] { card(ChainPage::Report)->refresh(report.pageCount()); });
    refresh();
}

void ChainRail::setCurrent(ChainPage page) {
    card(page)->setChecked(true);
}
ChainCard* ChainRail::card(ChainPage page) const {
    return m_cards.at(static_cast<std::size_t>(page));
}

} // namespace nuvat
