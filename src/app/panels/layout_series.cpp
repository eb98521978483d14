// The series of the standards on the Layout page: in words, as a picture, for one analyte or all.
#include "nuvat/core/base/number.h"
#include "panels/layout_page.h"
#include "panels/series_table.h"
#include "theme/style.h"
#include "widgets/live_form.h"
#include "widgets/series_picture.h"

#include <cmath>
#include <QCheckBox>
#include <QHBoxLayout>
#include <QVBoxLayout>

namespace nuvat {

QWidget* LayoutPage::makeSeriesCard() {
    auto* card = new Card(tr("Standard series"), this);
    card->titleRow()->addWidget(makeLabel(tr("Analyte"), "mute", card));
    m_analyte = makeField(QStringLiteral("analyte"), 84, card);
    card->titleRow()->addWidget(m_analyte);
    card->titleRow()->addWidget(makeLabel(tr("Unit"), "mute", card));
    m_unit = makeField(QStringLiteral("unit"), 56, card);
    card->titleRow()->addWidget(m_unit);
    auto* words = new QHBoxLayout;
    words->setSpacing(6);
    m_ends = makeLabel(tr("Highest"), "mute", card);
    m_ends->setToolTip(tr("Concentration of S1"));
    m_first = makeField(QStringLiteral("seriesFirst"), 52, card);
    m_step = new Choice(card);
    m_step->setObjectName(QStringLiteral("seriesStep"));
    m_step->addItems({tr("divided by"), tr("multiplied by")});
    m_factor = makeField(QStringLiteral("seriesFactor"), 40, card);
    m_levels = makeField(QStringLiteral("seriesLevels"), 32, card);
    words->addWidget(m_ends);
    words->addWidget(m_first);
    words->addWidget(makeLabel(tr("then"), "mute", card));
    words->addWidget(m_step);
    words->addWidget(m_factor);
    words->addWidget(makeLabel(tr("levels"), "mute", card));
    words->addWidget(m_levels);
    words->addStretch();
    auto* plan = makeButton(tr("Plan…"), "normal", QStringLiteral("seriesPlan"), card);
    plan->setToolTip(tr("How the standards are made from a stock: what is pipetted for each level"));
    connect(plan, &QPushButton::clicked, this, [this] {
        if (m_workspace.carrier().kind == CarrierKind::RunList) {
            showPlan(true);
        } else {
            Q_EMIT actionAsked(QStringLiteral("runs.standards"));
        }
    });
    words->addWidget(plan);
    m_all = makeButton(tr("All"), "normal", QStringLiteral("seriesAll"), card);
    m_all->setCheckable(true);
    m_all->setToolTip(tr("The series of all analytes in one table"));
    m_all->setAccessibleName(tr("All analytes"));
    connect(m_all, &QPushButton::toggled, this, &LayoutPage::showSeries);
    words->addWidget(m_all);
    card->body()->addLayout(words);
    m_anchor = new QCheckBox(tr("Anchor"), card);
    m_anchor->setObjectName(QStringLiteral("anchor"));
    m_anchor->setToolTip(tr("The selected level holds an end of the curve beyond the range: it is fitted, not judged"));
    connect(m_anchor, &QCheckBox::clicked, this, &LayoutPage::toggleAnchor);
    card->titleRow()->insertWidget(1, m_anchor);
    m_picture = new SeriesPicture(m_workspace, card);
    card->body()->addWidget(m_picture, 1);
    m_table = new SeriesTable(m_workspace, card);
    card->body()->addWidget(m_table, 1);

    // Dividing begins with the highest level, multiplying with the lowest.
    connect(m_step, &QComboBox::currentIndexChanged, this,
            [this](int index) { m_ends->setText(index == 0 ? tr("Highest") : tr("Lowest")); });
    connect(m_step, &QComboBox::activated, this, &LayoutPage::applySeries);
    for (QLineEdit* field : {m_first, m_factor, m_levels}) {
        connect(field, &QLineEdit::editingFinished, this, [this, field] {
            if (field->isModified()) {
                field->setModified(false);
                applySeries();
            }
        });
    }
    const auto edited = [this](QLineEdit* field, std::string Analyte::*member) {
        connect(field, &QLineEdit::editingFinished, this, [this, field, member] {
            if (!field->isModified()) {
                return;
            }
            field->setModified(false);
            Method method = m_workspace.newest().method;
            method.analyte(m_workspace.analyteNumber()).*member = field->text().trimmed().toStdString();
            m_workspace.apply(setMethod(m_workspace.newest(), method));
        });
    };
    edited(m_analyte, &Analyte::name);
    edited(m_unit, &Analyte::unit);
    return card;
}

void LayoutPage::applySeries() {
    if (m_first->text().trimmed().isEmpty() || m_factor->text().trimmed().isEmpty() ||
        m_levels->text().trimmed().isEmpty()) {
        return; // still being typed
    }
    Series series;
    series.first = parseTyped(m_first->text().toStdString()).value_or(0);
    series.isDivided = m_step->currentIndex() == 0;
    series.factor = parseTyped(m_factor->text().toStdString()).value_or(0);
    series.levels = m_levels->text().trimmed().toInt();
    m_workspace.apply(setSeries(m_workspace.newest(), series, m_workspace.analyteNumber()));
}

/// Fills the words of the series from the levels when they form one.
void LayoutPage::showSeries() {
    const bool hasSeveral = m_workspace.batch().method.analytes.size() > 1;
    m_all->setVisible(hasSeveral);
    const bool areAllShown = hasSeveral && m_all->isChecked();
    m_picture->setVisible(!areAllShown);
    m_table->setVisible(areAllShown);
    if (areAllShown) {
        m_table->refresh();
    }
    const auto numbers = m_workspace.index().numbersOf(Role::Standard);
    std::vector<double> levels;
    for (const int number : numbers) {
        if (const auto x = m_workspace.batch().concentration(number, m_workspace.analyteNumber())) {
            levels.push_back(*x);
        }
    }
    if (!m_levels->hasFocus()) {
        m_levels->setText(numbers.empty() ? QString() : QString::number(numbers.size()));
    }
    if (levels.size() < 2 || levels.size() != numbers.size() || !(levels[0] > 0) || !(levels[1] > 0)) {
        return;
    }
    const bool isDivided = levels[1] < levels[0];
    const double factor = isDivided ? levels[0] / levels[1] : levels[1] / levels[0];
    for (std::size_t i = 1; i < levels.size(); ++i) {
        const double wanted = isDivided ? levels[i - 1] / factor : levels[i - 1] * factor;
        if (std::abs(levels[i] - wanted) > 1e-9 * wanted) {
            return;
        }
    }
    m_step->setCurrentIndex(isDivided ? 0 : 1);
    if (!m_first->hasFocus()) {
        m_first->setText(shown(formatNumber(levels[0])));
    }
    if (!m_factor->hasFocus()) {
        m_factor->setText(shown(formatNumber(std::round(factor * 1e9) / 1e9)));
    }
}

/// Whether the level that is selected is an anchor.
void LayoutPage::showAnchor() {
    const auto group = m_workspace.selection().group;
    const bool isLevel = group && group->role == Role::Standard;
    m_anchor->setEnabled(isLevel);
    m_anchor->setChecked(isLevel && isAnchor(m_workspace.batch(), {group->number, m_workspace.analyteNumber()}));
}

void LayoutPage::toggleAnchor() {
    const auto group = m_workspace.selection().group;
    if (!group || group->role != Role::Standard) {
        m_workspace.tell(tr("Select a standard first, on the plate or in the picture of the levels."), false);
        return;
    }
    const int analyte = m_workspace.analyteNumber();
    const bool isOne = isAnchor(m_workspace.newest(), {group->number, analyte});
    m_workspace.apply(setAnchor(m_workspace.newest(), group->number, !isOne, analyte));
    showAnchor(); // also when nothing came of it
}

} // namespace nuvat
