#include "panels/curve_page.h"

#include "models/columns_model.h"
#include "nuvat/batch/command.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "panels/compare_view.h"
#include "panels/curve_settings.h"
#include "panels/line_choice.h"
#include "plots/curve_plot.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"

#include <algorithm>
#include <cmath>
#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace nuvat {

namespace {
constexpr std::array<Model, 10> kModels{
    Model::Line,   Model::LineThroughOrigin, Model::LineFixedPoint, Model::Quadratic, Model::Cubic,
    Model::LogLog, Model::PointToPoint,      Model::Spline,         Model::Logistic4, Model::Logistic5};
constexpr std::array<Weighting, 7> kWeightings{Weighting::None,     Weighting::InverseX,  Weighting::InverseX2,
                                               Weighting::InverseY, Weighting::InverseY2, Weighting::InverseS2,
                                               Weighting::Variance};
} // namespace

CurvePage::CurvePage(Workspace& workspace, QWidget* parent) : Page(workspace, parent) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 8, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    outer->addLayout(makeTop());
    m_settings = new CurveSettings(workspace, this);
    m_settings->hide(); // until the side panel takes it
    m_views = new QStackedWidget(this);
    auto* curve = new QWidget(m_views);
    auto* curveLayout = new QVBoxLayout(curve);
    curveLayout->setContentsMargins(0, 0, 0, 0);
    curveLayout->setSpacing(frame::kGap);
    m_compare = new CompareView(workspace, m_views);
    m_views->addWidget(curve);
    m_views->addWidget(m_compare);
    outer->addWidget(m_views, 1);
    auto* plotCard = new Card({}, this);
    plotCard->body()->setContentsMargins(6, 2, 6, 6);
    m_plot = new CurvePlot(workspace, plotCard);
    plotCard->body()->addWidget(m_plot);
    plotCard->body()->addWidget(makeOffer());
    curveLayout->addWidget(plotCard, 1);

    auto* bottom = new QHBoxLayout;
    bottom->setSpacing(frame::kGap);
    bottom->addWidget(makeStandards(), 1);
    bottom->addWidget(makeParameters(), 1);
    curveLayout->addLayout(bottom);
    showComparison(false);
    connectAll();
}

Choice* CurvePage::addChoice(QHBoxLayout* row, const QString& title, const char* name) {
    auto* column = new QVBoxLayout;
    column->setSpacing(3);
    auto* label = makeLabel(title, "small", this);
    column->addWidget(label);
    auto* choice = new Choice(this);
    choice->setObjectName(QString::fromLatin1(name));
    choice->setAccessibleName(title);
    column->addWidget(choice);
    if (std::string_view(name) == "axis") {
        m_whereRoom = {label, choice};
    } else {
        m_ofCommonCurve.insert(m_ofCommonCurve.end(), {label, choice});
    }
    row->addLayout(column);
    return choice;
}

QLayout* CurvePage::makeTop() {
    auto* top = new QHBoxLayout;
    top->setSpacing(7);
    top->addLayout(makeViewSwitch());
    m_lineOf = new LineChoice(m_workspace, this);
    top->addWidget(m_lineOf);
    m_model = addChoice(top, tr("Model"), "model");
    for (const Model model : kModels) {
        m_model->addItem(text(modelTitle(model)));
    }
    m_weighting = addChoice(top, tr("Weighting"), "weighting");
    for (const Weighting weighting : kWeightings) {
        m_weighting->addItem(text(weightingTitle(weighting)));
    }
    constexpr int kMostWide = 116; // long names are cut: the fields at the right need the room
    m_model->setMaximumWidth(kMostWide);
    m_weighting->setMaximumWidth(kMostWide);
    m_axis = addChoice(top, tr("Concentration axis"), "axis");
    m_axis->addItems({tr("Linear"), tr("Logarithmic")});
    auto* moreColumn = new QVBoxLayout;
    moreColumn->setSpacing(3);
    moreColumn->addWidget(makeLabel(QString(), "small", this));
    auto* more = makeButton(tr("Settings"), "normal", QStringLiteral("curveSettings"), this);
    more->setToolTip(tr("S · what else the curve uses, in the side panel: weights, held parameters, range, interval"));
    moreColumn->addWidget(more);
    top->addLayout(moreColumn);
    connect(more, &QPushButton::clicked, this, &CurvePage::settingsAsked);
    top->addStretch();
    top->addLayout(makeReadOff());
    return top;
}

QLayout* CurvePage::makeViewSwitch() {
    auto* viewColumn = new QVBoxLayout;
    viewColumn->setSpacing(3);
    viewColumn->addWidget(makeLabel(tr("View"), "small", this));
    auto* viewRow = new QHBoxLayout;
    viewRow->setSpacing(0);
    m_showsCurve = makeButton(tr("Curve"), "normal", QStringLiteral("showCurve"), this);
    m_showsComparison = makeButton(tr("Compare"), "normal", QStringLiteral("showComparison"), this);
    m_showsComparison->setToolTip(tr("Ranks the usual models and weightings and shows what each would change"));
    for (QPushButton* button : {m_showsCurve, m_showsComparison}) {
        button->setCheckable(true);
        viewRow->addWidget(button);
    }
    connect(m_showsCurve, &QPushButton::clicked, this, [this] { showComparison(false); });
    connect(m_showsComparison, &QPushButton::clicked, this, [this] { showComparison(true); });
    viewColumn->addLayout(viewRow);
    return viewColumn;
}

QLayout* CurvePage::makeReadOff() {
    auto* readColumn = new QVBoxLayout;
    readColumn->setSpacing(3);
    auto* readTitle = makeLabel(tr("Response, or concentration"), "small", this);
    readColumn->addWidget(readTitle);
    auto* readRow = new QHBoxLayout;
    readRow->setSpacing(6);
    m_response = makeField(QStringLiteral("readOffResponse"), 44, this);
    m_response->setPlaceholderText(tr("y"));
    m_response->setAccessibleName(tr("Response to read off"));
    m_response->setToolTip(tr("A response: its concentration is read off"));
    m_concentration = makeField(QStringLiteral("readOffConcentration"), 44, this);
    m_concentration->setPlaceholderText(tr("x"));
    m_concentration->setAccessibleName(tr("Concentration to read off"));
    m_concentration->setToolTip(tr("A concentration: the response of the curve there is said"));
    m_readOff = makeButton(tr("Read off"), "normal", QStringLiteral("readOff"), this);
    m_readOff->setCheckable(true);
    m_readOff->setToolTip(tr("R · the response under the pointer, or a number typed, is read off the curve"));
    readRow->addWidget(m_response);
    readRow->addWidget(m_concentration);
    readRow->addWidget(m_readOff);
    readColumn->addLayout(readRow);
    m_whereRoom.insert(m_whereRoom.end(), {readTitle, m_response, m_concentration, m_readOff});
    return readColumn;
}

void CurvePage::connectAll() {
    connect(m_model, &QComboBox::activated, this, [this](int index) {
        setAnalyteFrom([index](Analyte& a) { a.fit.model = kModels[static_cast<std::size_t>(index)]; });
    });
    connect(m_weighting, &QComboBox::activated, this, [this](int index) {
        setAnalyteFrom([index](Analyte& a) { a.fit.weighting = kWeightings[static_cast<std::size_t>(index)]; });
    });
    connect(m_axis, &QComboBox::activated, this,
            [this](int index) { setAnalyteFrom([index](Analyte& a) { a.isConcentrationLogarithmic = index == 1; }); });
    connect(m_readOff, &QPushButton::toggled, m_plot, &CurvePlot::setCursorOn);
    const auto readOff = [this](QLineEdit* field, const QString& wrong, void (CurvePlot::*at)(double)) {
        connect(field, &QLineEdit::returnPressed, this, [this, field, wrong, at] {
            const auto value = parseTyped(field->text().toStdString());
            if (!value) {
                m_workspace.tell(wrong.arg(field->text()), true);
                return;
            }
            m_readOff->setChecked(true);
            (m_plot->*at)(*value);
        });
    };
    readOff(m_response, tr("\"%1\" is not a response; type a number such as 1.05."), &CurvePlot::readOffAt);
    readOff(m_concentration, tr("\"%1\" is not a concentration; type a number such as 12.5."),
            &CurvePlot::readOffConcentration);
    connect(m_plot, &CurvePlot::pointActivated, this, [this](Place place) {
        m_workspace.select({place});
        Q_EMIT actionAsked(QStringLiteral("place.exclude"));
    });
    connect(m_settings->others()->menu(), &QMenu::aboutToShow, this, &CurvePage::fillOthers);
    connect(m_standardsTable, &DataTable::rowChosen, this,
            [this](int row) { m_workspace.select({standardAt(row).place}); });
    connect(m_standardsTable, &DataTable::rowHovered, this, [this](int row) {
        m_workspace.hover(row < 0 || row >= m_standards->rowCount() ? std::nullopt
                                                                    : std::optional(standardAt(row).place));
    });
}

QString CurvePage::keysHint() const {
    return m_showsComparison->isChecked() ? tr("↑ ↓ look at another fit · Enter take it")
                                          : tr("X exclude or restore · R read off · O other curves · Z zoom to fit");
}

void CurvePage::showComparison(bool isShown) {
    m_showsCurve->setChecked(!isShown);
    m_showsComparison->setChecked(isShown);
    m_views->setCurrentIndex(isShown ? 1 : 0);
    lookForBest();
    Q_EMIT factsChanged(); // other keys matter
}

QWidget* CurvePage::mainWidget() const {
    return m_plot;
}

QWidget* CurvePage::settings() const {
    return m_settings;
}

QString CurvePage::facts() const {
    const auto& standards = m_workspace.curve().standards;
    const auto used = std::count_if(standards.begin(), standards.end(), [](const auto& s) { return s.isUsed; });
    QString line = tr("%1 of %2 standards in the fit").arg(used).arg(standards.size());
    for (const StandardValue& s : standards) {
        if (const auto* found = m_workspace.batch().exclusion(s.place, m_workspace.analyteNumber())) {
            line += tr(" · %1 excluded: %2").arg(text(placeName(m_workspace.batch(), s.place)), text(found->reason));
        }
    }
    return line;
}

QWidget* CurvePage::picture() const {
    return m_plot;
}

void CurvePage::copy() const {
    QApplication::clipboard()->setPixmap(m_plot->toPixmap(0, 0, 2));
}

/// Which curves lie behind the one that is shown.
void CurvePage::fillOthers() {
    QMenu* menu = m_settings->others()->menu();
    menu->clear();
    for (const std::string& name : m_plot->otherNames()) {
        QAction* action = menu->addAction(text(name));
        action->setCheckable(true);
        action->setChecked(m_plot->isOtherShown(name));
        connect(action, &QAction::toggled, this, [this, name](bool isOn) { m_plot->showOther(name, isOn); });
    }
    menu->addSeparator();
    menu->addAction(tr("A kept curve…"), this, [this] { Q_EMIT actionAsked(QStringLiteral("curve.overlay")); });
}

/// All of them, or none.
void CurvePage::toggleOthers() {
    showComparison(false);
    const auto names = m_plot->otherNames();
    if (names.empty()) {
        m_workspace.tell(tr("There is no other curve in this batch; a kept one can be laid behind from its file."),
                         false);
    }
    const bool isAny = std::ranges::any_of(names, [this](const auto& name) { return m_plot->isOtherShown(name); });
    for (const std::string& name : names) {
        m_plot->showOther(name, !isAny);
    }
}

std::vector<PageAction> CurvePage::actions() {
    return {
        {QStringLiteral("curve.others"),
         tr("Other curves behind this one"),
         {QKeySequence(Qt::Key_O)},
         [this] { toggleOthers(); }},
        {QStringLiteral("curve.readOff"),
         tr("Read off the curve"),
         {QKeySequence(Qt::Key_R)},
         [this] { toggleReadOff(); }},
        {QStringLiteral("curve.settings"),
         tr("Settings of the curve"),
         {QKeySequence(Qt::Key_S)},
         [this] { Q_EMIT settingsAsked(); }},
        {QStringLiteral("curve.fit"), tr("Zoom the curve to fit"), {QKeySequence(Qt::Key_Z)}, [this] { zoomToFit(); }}};
}

void CurvePage::enterSettings() {
    m_settings->enter();
}
void CurvePage::toggleReadOff() {
    showComparison(false);
    m_readOff->toggle();
}
/// While reading off, a number that is typed is a response.
void CurvePage::keyPressEvent(QKeyEvent* event) {
    if (m_readOff->isChecked() && startsNumber(*event)) {
        m_response->setFocus();
        m_response->setText(event->text());
    } else {
        Page::keyPressEvent(event);
    }
}
void CurvePage::zoomToFit() {
    showComparison(false);
    m_plot->fitAxes();
}

QWidget* CurvePage::makeOffer() {
    m_offer = new QWidget(this);
    auto* row = new QHBoxLayout(m_offer);
    row->setContentsMargins(10, 0, 8, 4);
    m_offerWords = makeLabel({}, "value", m_offer);
    m_offerWords->setObjectName(QStringLiteral("offerWords"));
    m_offerWords->setWordWrap(true);
    m_offerTake = makeButton({}, "primary", QStringLiteral("offerTake"), m_offer);
    row->addWidget(m_offerWords, 1);
    row->addWidget(m_offerTake);
    connect(m_offerTake, &QPushButton::clicked, this, [this] {
        const FitOptions taken = m_offered;
        setAnalyteFrom([&taken](Analyte& analyte) { analyte.fit = taken; });
    });
    m_offer->hide();
    return m_offer;
}

/// Beside the window's work: which of the usual models these standards determine, where they do not determine the one
/// in use. The comparison, when it is shown, says so itself.
void CurvePage::lookForBest() {
    if (m_search) {
        m_search->cancel();
    }
    const int search = ++m_searches; // whatever was looked for before belongs to another fit
    m_offer->hide();
    const Fit& fit = m_workspace.curve().fit;
    if (fit.isUsable() || fit.n == 0 || !isVisible() || m_showsComparison->isChecked()) {
        return;
    }
    m_search = runJob<std::vector<ComparedFit>>(
        this,
        [batch = m_workspace.batch(), evaluation = m_workspace.curve()](Progress& progress)
            -> Result<std::vector<ComparedFit>> { return compareFits(batch, evaluation, progress); },
        [this, search](Result<std::vector<ComparedFit>> fits) {
            if (search == m_searches && fits) {
                offer(*fits);
            }
        });
}

void CurvePage::offer(const std::vector<ComparedFit>& fits) {
    const auto best = std::find_if(fits.begin(), fits.end(), [](const ComparedFit& one) {
        return one.candidate.rank > 0 && one.candidate.fit.isUsable() && !one.isInUse;
    });
    if (best == fits.end()) {
        return;
    }
    m_offered = best->options;
    const QString name = text(fitTitle(m_offered));
    m_offerWords->setText(
        tr("These standards do not determine the model in use. Of those that they determine %1 is first: "
           "%2 of %3 levels within limits.")
            .arg(name)
            .arg(std::count(best->levelsWithin.begin(), best->levelsWithin.end(), true))
            .arg(best->levelsWithin.size()));
    m_offerTake->setText(tr("Use %1").arg(name));
    m_offer->show();
}

/// With the side panel open in a small window, what the keys or the panel reach as well makes room for the curve.
void CurvePage::resizeEvent(QResizeEvent* event) {
    Page::resizeEvent(event);
    constexpr int kNarrow = 640;
    for (QWidget* widget : m_whereRoom) {
        widget->setVisible(width() >= kNarrow);
    }
}

void CurvePage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    lookForBest();
}

void CurvePage::setAnalyteFrom(const std::function<void(Analyte&)>& change) {
    Method method = m_workspace.newest().method;
    change(method.analyte(m_workspace.analyteNumber()));
    m_workspace.apply(setMethod(m_workspace.newest(), method));
}

void CurvePage::followSelection() {
    if (m_workspace.curve().shownSample != m_shownSample) {
        refresh(); // the line of another sample
        m_plot->refresh();
    }
    const auto& standards = m_workspace.curve().standards;
    int found = -1;
    for (int row = m_standards->rowCount() - 1; row >= 0; --row) {
        found = m_workspace.selection().holds(standards.at(static_cast<std::size_t>(row)).place) ? row : found;
    }
    m_standardsTable->showRow(found);
}

void CurvePage::refresh() {
    const Analyte& analyte = m_workspace.analyte();
    m_shownSample = m_workspace.curve().shownSample;
    m_lineOf->refresh();
    for (QWidget* widget : m_ofCommonCurve) {
        widget->setVisible(m_shownSample == 0);
    }
    m_showsComparison->setVisible(m_shownSample == 0);
    m_model->setCurrentIndex(
        static_cast<int>(std::find(kModels.begin(), kModels.end(), analyte.fit.model) - kModels.begin()));
    m_weighting->setCurrentIndex(static_cast<int>(
        std::find(kWeightings.begin(), kWeightings.end(), analyte.fit.weighting) - kWeightings.begin()));
    m_axis->setCurrentIndex(analyte.isConcentrationLogarithmic ? 1 : 0);
    m_standards->refresh();
    m_parameters->refresh();
    m_parameters->setHeading(3,
                             tr("%1 % interval").arg(shown(formatNumber(100 * m_workspace.batch().method.confidence))));
    m_standards->setHeading(1, analyte.unit.empty() ? tr("Nominal") : text(analyte.unit));
    const Fit& fit = m_workspace.curve().fit;
    lookForBest();
    if (!fit.isUsable()) {
        m_quality->setText(fit.n > 0 ? tr("No curve; Compare shows which models these standards determine")
                                     : QString());
        return;
    }
    QStringList parts;
    if (fit.rSquared) {
        parts << tr("R² %1%2").arg(shown(formatDecimals(*fit.rSquared, 5)),
                                   fit.model == Model::LineThroughOrigin ? tr(" (about zero)")
                                   : fit.model == Model::LineFixedPoint  ? tr(" (about the fixed point)")
                                                                         : QString());
    }
    if (fit.r) {
        parts << tr("r %1").arg(shown(formatDecimals(*fit.r, 5)));
    }
    parts << tr("residual SD %1").arg(shown(formatFigures(fit.s, 3))) << tr("df %1").arg(fit.df);
    m_quality->setText(parts.join(QStringLiteral(" · ")));
    m_quality->setToolTip(fit.warnings.empty() ? QString() : text(fit.warnings.front()));
}

} // namespace nuvat
