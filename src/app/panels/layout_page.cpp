#include "panels/layout_page.h"

#include "kinds/list/plan_view.h"
#include "kinds/list/run_blocks.h"
#include "nuvat/batch/layout_transfer.h"
#include "nuvat/batch/run_commands.h"
#include "nuvat/report/calibration_figure.h"
#include "panels/samples_card.h"
#include "panels/series_table.h"
#include "theme/style.h"
#include "widgets/carrier_view.h"
#include "widgets/live_form.h"
#include "widgets/series_picture.h"

#include <algorithm>
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QHBoxLayout>
#include <QMenu>
#include <QPainter>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <set>

namespace nuvat {

namespace {

/// Those with a button and a key of their own; the others are in a menu.
constexpr std::array<Role, 5> kRoles{Role::Standard, Role::Blank, Role::Qc, Role::Unknown, Role::Empty};

bool hasButton(Role role) {
    return std::find(kRoles.begin(), kRoles.end(), role) != kRoles.end();
}

QString roleTitle(Role role) {
    QString title = text(std::string(roleWord(role)));
    title[0] = title[0].toUpper();
    return title;
}

QIcon roleIcon(Role role) {
    QPixmap pixmap(32, 32);
    pixmap.setDevicePixelRatio(2);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    drawRoleShape(painter, QPointF(8, 8), 4.5, role, theme().role(role));
    return QIcon(pixmap);
}

} // namespace

LayoutPage::LayoutPage(Workspace& workspace, QWidget* parent) : Page(workspace, parent) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    m_views = new Segments({tr("Levels and names"), tr("Run list and plan")}, this);
    m_views->setObjectName(QStringLiteral("layoutViews"));
    connect(m_views, &Segments::chosen, this, [this](int index) { showPlan(index == 1); });
    outer->addWidget(m_views, 0, Qt::AlignLeft);
    m_stack = new QStackedWidget(this);
    outer->addWidget(m_stack, 1);
    m_stack->addWidget(makeLevels());
    m_plan = new PlanView(workspace, this);
    connect(m_plan, &PlanView::actionAsked, this, &LayoutPage::actionAsked);
    m_stack->addWidget(m_plan);
    connect(&workspace, &Workspace::carrierChanged, this, &LayoutPage::followCarrier);
}

QWidget* LayoutPage::makeLevels() {
    auto* levels = new QWidget(this);
    auto* outer = new QVBoxLayout(levels);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->setSpacing(frame::kGap);
    outer->addWidget(makeToolRow());
    auto* plateCard = new Card({}, this);
    m_plate = new CarrierView(m_workspace, ViewMode::Roles, QStringLiteral("layoutPlate"), plateCard);
    plateCard->body()->addWidget(m_plate);
    outer->addWidget(plateCard, 2);
    auto* bottom = new QHBoxLayout;
    bottom->setSpacing(frame::kGap);
    bottom->addWidget(makeSeriesCard(), 4);
    m_samples = new SamplesCard(m_workspace, this);
    bottom->addWidget(m_samples, 3);
    outer->addLayout(bottom, 1);

    connect(m_plate, &CarrierView::painted, this, [this](const std::vector<Place>& places) {
        if (m_plate->brush()) {
            assign(places, *m_plate->brush(), m_isFurther);
        }
    });
    return levels;
}

/// The plan belongs to run lists alone.
void LayoutPage::followCarrier() {
    const bool isList = m_workspace.isOpen() && m_workspace.carrier().kind == CarrierKind::RunList;
    m_views->setVisible(isList);
    if (!isList) {
        m_stack->setCurrentIndex(0);
    }
    m_views->setCurrent(m_stack->currentIndex());
    if (isPlanShown()) {
        m_plan->refresh();
    }
}

bool LayoutPage::isPlanShown() const {
    return m_stack->currentIndex() == 1;
}

void LayoutPage::showPlan(bool isShown) {
    m_stack->setCurrentIndex(isShown ? 1 : 0);
    followCarrier();
    mainWidget()->setFocus();
    if (const auto next = nextPlanned(m_workspace.batch(), m_workspace.carrierNumber()); next && isShown) {
        QMetaObject::invokeMethod(
            m_plan->blocks(), [this, row = next->row] { m_plan->blocks()->bringUp(row); }, Qt::QueuedConnection);
    }
    Q_EMIT factsChanged();
}

QWidget* LayoutPage::makeToolRow() {
    auto* row = new QWidget(this);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    constexpr std::array<const char*, 5> kNames{"roleStandard", "roleBlank", "roleQc", "roleUnknown", "roleEmpty"};
    for (std::size_t i = 0; i < kRoles.size(); ++i) {
        const int key = i == 4 ? 0 : static_cast<int>(i) + 1;
        auto* button = makeButton(roleTitle(kRoles[i]) + QStringLiteral(" %1").arg(key), "tool",
                                  QString::fromLatin1(kNames[i]), row);
        if (kRoles[i] != Role::Empty) {
            button->setIcon(roleIcon(kRoles[i]));
        }
        button->setCheckable(true);
        button->setToolTip(tr("Assigns the selected wells; with none selected, dragging paints (Esc ends)"));
        connect(button, &QPushButton::clicked, this, [this, i] { useRole(kRoles[i]); });
        layout->addWidget(button);
        m_roles.push_back(button);
        if (kRoles[i] == Role::Unknown) {
            layout->addWidget(makeOtherRoles(row));
        }
    }
    m_fill = makeButton(tr("Fill rest"), "tool", QStringLiteral("fillRest"), row);
    m_fill->setToolTip(tr("Makes all empty wells unknowns; while painting, gives them the role of the brush"));
    connect(m_fill, &QPushButton::clicked, this, &LayoutPage::fillTheRest);
    layout->addWidget(m_fill);
    layout->addWidget(makeArrange(row));
    layout->addStretch();
    m_replicates = new Choice(row);
    m_replicates->setObjectName(QStringLiteral("replicates"));
    for (int n = 1; n <= 8; ++n) {
        m_replicates->addItem(tr("%1 each").arg(n));
    }
    m_replicates->setAccessibleName(tr("Replicates"));
    m_replicates->setToolTip(tr("How many places each level and each sample takes"));
    m_replicates->setCurrentIndex(1);
    layout->addWidget(m_replicates);
    m_direction = new Choice(row);
    m_direction->setObjectName(QStringLiteral("direction"));
    m_direction->addItems({tr("across"), tr("down"), tr("blocks")});
    m_direction->setAccessibleName(tr("Order of the replicates"));
    layout->addWidget(m_direction);
    return row;
}

QWidget* LayoutPage::makeOtherRoles(QWidget* parent) {
    m_others = makeButton(tr("More"), "tool", QStringLiteral("otherRoles"), parent);
    m_others->setToolTip(tr("Other roles: double blank, reagent blank, check standard, …"));
    m_others->setCheckable(true);
    auto* menu = new QMenu(m_others);
    for (const Role role : rolesInUse()) {
        if (!hasButton(role)) {
            menu->addAction(roleIcon(role), roleTitle(role), this, [this, role] { useRole(role); });
        }
    }
    menu->addSeparator();
    menu->addAction(roleIcon(Role::Unknown), tr("Further dilution of the unknowns"), this,
                    [this] { useRole(Role::Unknown, true); });
    m_others->setMenu(menu);
    return m_others;
}

QString LayoutPage::keysHint() const {
    if (isPlanShown()) {
        return tr("Alt+up and down move a block or run · Delete takes planned runs off · P back to the levels");
    }
    return tr("1 to 4 role · 0 clear · E fill the rest · Alt+arrows move · Ctrl+C and V copy");
}

QWidget* LayoutPage::mainWidget() const {
    return isPlanShown() ? m_plan->blocks() : m_plate->shown();
}

QString LayoutPage::facts() const {
    if (isPlanShown()) {
        return tr("Drag a heading to move its block; Shift selects several runs");
    }
    return m_plate->brush() ? tr("Drag to paint · Esc ends painting")
                            : tr("Drag to select, Ctrl adds, a heading takes its row or column; then choose a role");
}

void LayoutPage::useRole(Role role, bool isFurther) {
    if (isPlanShown() && role == Role::Empty) {
        m_plan->blocks()->removeSelected();
        return;
    }
    const bool isPainting = m_plate->brush().has_value();
    const auto places = m_workspace.selection().places;
    if (isPainting || places.empty()) {
        // Choosing the brush in use again puts it down.
        const bool isSame = m_plate->brush() == role && m_isFurther == isFurther;
        m_plate->setBrush(isSame ? std::nullopt : std::optional(role));
        m_isFurther = isFurther && !isSame;
    } else {
        assign(places, role, isFurther);
    }
    refresh();
    Q_EMIT factsChanged(); // what dragging does now
}

bool LayoutPage::factsComeFirst() const {
    return m_plate->brush().has_value();
}

std::vector<PageAction> LayoutPage::actions() {
    std::vector<PageAction> out;
    const auto add = [&](Role role, const QString& id, const QList<QKeySequence>& keys) {
        out.push_back({id, tr("Role of the selected wells: %1").arg(text(std::string(roleWord(role)))), keys,
                       [this, role] { useRole(role); }});
    };
    for (std::size_t i = 0; i < kRoles.size(); ++i) {
        QList<QKeySequence> keys{QKeySequence(kRoles[i] == Role::Empty ? Qt::Key_0 : Qt::Key_1 + static_cast<int>(i))};
        if (kRoles[i] == Role::Empty) {
            keys << QKeySequence(Qt::Key_Delete);
        }
        add(kRoles[i], QStringLiteral("layout.role%1").arg(i + 1), keys);
    }
    for (const Role role : rolesInUse()) {
        if (!hasButton(role)) {
            add(role, QStringLiteral("layout.%1").arg(text(std::string(name(role)))), {});
        }
    }
    out.push_back(
        {QStringLiteral("layout.dilution"), tr("Selected wells are a further dilution of the unknowns"), {}, [this] {
             useRole(Role::Unknown, true);
         }});
    out.push_back({QStringLiteral("layout.anchor"),
                   tr("The selected level is an anchor, or is none any more"),
                   {QKeySequence(Qt::Key_A)},
                   [this] { toggleAnchor(); }});
    addArrangeActions(out);
    out.push_back({QStringLiteral("layout.plan"),
                   tr("Run list and plan, or levels and names"),
                   {QKeySequence(Qt::Key_P)},
                   [this] {
                       if (m_workspace.carrier().kind == CarrierKind::RunList) {
                           showPlan(!isPlanShown());
                       }
                   }});
    out.push_back({QStringLiteral("layout.fill"), tr("Fill the rest of the plate"), {QKeySequence(Qt::Key_E)}, [this] {
                       fillTheRest();
                   }});
    return out;
}

bool LayoutPage::escape() {
    if (!m_plate->brush()) {
        return false;
    }
    m_plate->setBrush(std::nullopt);
    m_isFurther = false;
    refresh();
    Q_EMIT factsChanged();
    return true;
}

/// The replicate groups that have a well among the places.
std::size_t LayoutPage::groupsAt(const std::vector<Place>& places) const {
    std::set<Assignment> groups;
    for (const Place place : places) {
        if (const Assignment group = m_workspace.batch().at(place); group.role != Role::Empty) {
            groups.insert(group);
        }
    }
    return groups.size();
}

Direction LayoutPage::direction() const {
    return static_cast<Direction>(m_direction->currentIndex());
}

void LayoutPage::assign(const std::vector<Place>& places, Role role, bool isFurther) {
    const std::size_t cleared = role == Role::Empty ? groupsAt(places) : 0;
    const Batch& batch = m_workspace.newest();
    const bool hadGaps = hasGapsInStandards(batch);
    const int replicates = (m_replicates->currentIndex() + 1);
    if (!m_workspace.apply(isFurther ? addPreparations(batch, places, replicates, direction())
                                     : assignRole(batch, places, role, replicates, direction()))) {
        return;
    }
    m_workspace.select(places);
    if (cleared > 1) {
        m_workspace.offer(tr("%1 wells of %2 replicate groups were cleared.").arg(places.size()).arg(cleared),
                          tr("Undo"), [this] { m_workspace.undo(); });
    }
    if (!hadGaps && hasGapsInStandards(batch)) {
        m_workspace.offer(tr("The standards in use are no longer S1, S2, … in sequence."), tr("Renumber"),
                          [this] { m_workspace.apply(renumberStandards(m_workspace.newest())); });
    }
}

/// What is left on a plate are its unknowns, unless a role is being painted.
void LayoutPage::fillTheRest() {
    const Role role = m_plate->brush().value_or(Role::Unknown);
    m_workspace.apply(fillRest(m_workspace.newest(), role == Role::Empty ? Role::Unknown : role,
                               (m_replicates->currentIndex() + 1), direction()));
}

bool LayoutPage::paste(const QString& column) {
    if (isLayoutBlock(m_workspace.newest(), column.toStdString())) {
        const auto& places = m_workspace.selection().places;
        const Place corner =
            places.empty() ? Place{0, 0, m_workspace.carrierNumber()} : *std::ranges::min_element(places);
        m_workspace.apply(pasteLayout(m_workspace.newest(), corner, column.toStdString()));
        return true;
    }
    if (m_picture->hasFocus()) {
        m_picture->paste(column);
    } else {
        m_samples->pasteNames(column);
    }
    return true;
}

void LayoutPage::followSelection() {
    m_samples->followSelection();
    showAnchor();
}

void LayoutPage::refresh() {
    followCarrier();
    const auto brush = m_plate->brush();
    for (std::size_t i = 0; i < m_roles.size(); ++i) {
        m_roles[i]->setChecked(brush == kRoles[i] && !m_isFurther);
    }
    const bool isOther = brush && (m_isFurther || !hasButton(*brush));
    m_others->setChecked(isOther);
    m_others->setText(!isOther ? tr("More") : m_isFurther ? tr("Further dilution") : roleTitle(*brush));
    m_samples->refresh();
    const Analyte& analyte = m_workspace.analyte();
    if (!m_analyte->hasFocus()) {
        m_analyte->setText(text(analyte.name));
        m_analyte->setCursorPosition(0); // a long one shows its beginning
    }
    if (!m_unit->hasFocus()) {
        m_unit->setText(text(analyte.unit));
    }
    showSeries();
    showAnchor();
}

} // namespace nuvat
