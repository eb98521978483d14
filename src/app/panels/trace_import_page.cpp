#include "panels/trace_import_page.h"

#include "nuvat/core/base/number.h"
#include "plots/trace_plot.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"
#include "widgets/live_form.h"

#include <algorithm>
#include <QHBoxLayout>
#include <QVBoxLayout>
#include <set>

namespace nuvat {

namespace {

constexpr std::size_t kMostShown = 60;

} // namespace

TraceImportPage::TraceImportPage(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("page"));
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    outer->addWidget(makeHead());
    auto* middle = new QHBoxLayout;
    middle->setSpacing(frame::kGap);
    auto* plotCard = new Card({}, this);
    m_plot = new TracePlot(plotCard);
    m_plot->setObjectName(QStringLiteral("importTraces"));
    plotCard->body()->addWidget(m_plot);
    middle->addWidget(plotCard, 6);
    middle->addWidget(makeColumns(), 4);
    outer->addLayout(middle, 6);
    auto* bottom = new QHBoxLayout;
    bottom->setSpacing(frame::kGap);
    auto* header = new Card(tr("What the file says of itself"), this);
    m_header = addScrollingText(*header, QStringLiteral("traceImportHeader"));
    auto* warnings = new Card(tr("To look at"), this);
    m_warnings = addScrollingText(*warnings, QStringLiteral("traceImportWarnings"));
    bottom->addWidget(header, 1);
    bottom->addWidget(warnings, 1);
    outer->addLayout(bottom, 3);
    connect(m_plot, &TracePlot::zoomed, m_plot, &TracePlot::setZoom);
}

QWidget* TraceImportPage::makeHead() {
    auto* head = new Card({}, this);
    auto* row = new QHBoxLayout;
    auto* words = new QVBoxLayout;
    m_title = makeLabel({}, "title", head);
    m_title->setObjectName(QStringLiteral("traceImportTitle"));
    m_understood = makeLabel({}, "value", head);
    m_understood->setObjectName(QStringLiteral("traceImportUnderstood"));
    m_note = makeLabel({}, "mute", head);
    m_note->setWordWrap(true);
    for (QLabel* label : {m_title, m_understood, m_note}) {
        words->addWidget(label);
    }
    row->addLayout(words, 1);
    auto* reject = makeButton(tr("Leave it"), "normal", QStringLiteral("traceImportReject"), head);
    m_accept = makeButton(tr("Import"), "primary", QStringLiteral("traceImportAccept"), head);
    connect(reject, &QPushButton::clicked, this, &TraceImportPage::rejected);
    connect(m_accept, &QPushButton::clicked, this, &TraceImportPage::accepted);
    row->addWidget(reject, 0, Qt::AlignTop);
    row->addWidget(m_accept, 0, Qt::AlignTop);
    head->body()->addLayout(row);
    return head;
}

QWidget* TraceImportPage::makeColumns() {
    auto* card = new Card(tr("Columns"), this);
    auto* choices = new LiveForm(card);
    m_x = choices->choice(QStringLiteral("traceImportX"), tr("x is"), {});
    m_xRow = choices->row(tr("x is"), {m_x});
    connect(m_x, &QComboBox::activated, this, [this](int index) {
        m_recipe.x = index == 0 ? std::string() : m_names.at(static_cast<std::size_t>(index));
        understand();
    });
    m_columnsAre =
        choices->segments(QStringLiteral("traceImportColumnsAre"), tr("Columns are"), {tr("channels"), tr("runs")});
    m_columnsAreRow = choices->row(tr("Columns are"), {m_columnsAre},
                                   tr("What several detectors gave at one time, or the same signal run after run"));
    connect(m_columnsAre, &Segments::chosen, this, [this](int index) {
        m_recipe.columns = index == 0 ? ColumnsAre::Channels : ColumnsAre::Runs;
        understand();
    });
    m_namedBy = choices->choice(QStringLiteral("traceImportNamedBy"), tr("Run is named by"), {});
    m_namedByRow = choices->row(tr("Run is named by"), {m_namedBy},
                                tr("What the file says of itself, or what was understood of it"));
    connect(m_namedBy, &QComboBox::activated, this, [this](int index) {
        m_recipe.nameKey = index == 0 ? std::string() : m_namedBy->itemData(index).toString().toStdString();
        understand();
    });
    card->body()->addWidget(choices);
    m_model = new ColumnsModel(
        columnSpecs(), [this] { return static_cast<int>(m_names.size()); }, this);
    m_table = new DataTable(m_model, QStringLiteral("traceImportColumns"), card);
    card->body()->addWidget(m_table, 1);
    auto* hint =
        makeLabel(tr("Double-click to correct a name or a unit; a channel without a name is left out."), "mute", card);
    hint->setWordWrap(true);
    card->body()->addWidget(hint);
    return card;
}

/// What holds for a column now: as corrected, else as the file has it.
ColumnRecipe TraceImportPage::columnAt(int row) const {
    const std::string& name = m_names.at(static_cast<std::size_t>(row));
    if (const ColumnRecipe* found = m_recipe.find(name)) {
        return *found;
    }
    for (const FileTrace& trace : content()->traces) {
        if (trace.name == name) {
            return {name, name, trace.yAxis.unit};
        }
        if (trace.xAxis.name == name) {
            return {name, name, trace.xAxis.unit};
        }
    }
    return {name, name, {}};
}

bool TraceImportPage::correct(int row, const std::function<void(ColumnRecipe&)>& edit) {
    ColumnRecipe column = columnAt(row);
    edit(column);
    std::erase_if(m_recipe.corrected, [&](const ColumnRecipe& one) { return one.column == column.column; });
    if (column != columnAt(row)) { // what the file has needs no correction
        m_recipe.corrected.push_back(column);
    }
    understand();
    return true;
}

std::vector<ColumnSpec> TraceImportPage::columnSpecs() {
    const auto always = [](int) { return true; };
    std::vector<ColumnSpec> out;
    out.push_back({tr("In the file"), false, 0,
                   [this](int row) -> QVariant { return text(m_names.at(static_cast<std::size_t>(row))); }});
    out.push_back({tr("Name here"),
                   false,
                   120,
                   [this](int row) -> QVariant { return text(columnAt(row).name); },
                   {},
                   always,
                   [this](int row, const QString& typed) {
                       return correct(row, [&](ColumnRecipe& c) { c.name = typed.trimmed().toStdString(); });
                   }});
    out.push_back({tr("Unit"),
                   false,
                   70,
                   [this](int row) -> QVariant { return text(columnAt(row).unit); },
                   {},
                   always,
                   [this](int row, const QString& typed) {
                       return correct(row, [&](ColumnRecipe& c) { c.unit = typed.trimmed().toStdString(); });
                   }});
    return out;
}

QString TraceImportPage::understoodText() const {
    if (m_runs.empty()) {
        return tr("Nothing of it can be taken as a trace this way.");
    }
    std::set<std::string> channels;
    std::size_t most = 0;
    for (const ImportedRun& run : m_runs) {
        for (const auto& [name, payload] : run.channels) {
            channels.insert(name);
            most = std::max(most, payload.trace()->size());
        }
    }
    const auto first = m_runs.front().channels.front().second.trace();
    const QString name = m_runs.size() == 1 && !m_runs.front().name.empty()
                             ? QStringLiteral(" \u201c") + text(m_runs.front().name) + QStringLiteral("\u201d")
                             : QString();
    return tr("%1: %2 · %3")
               .arg(text(m_runs.front().understood), counted(m_runs.size(), tr("run"), tr("runs")) + name,
                    counted(channels.size(), tr("channel"), tr("channels"))) +
           tr(" · up to %1 points · x: %2 from %3 to %4")
               .arg(most)
               .arg(axisTitle(first->xName, first->xUnit), shown(formatNumber(first->xAt(0))),
                    shown(formatNumber(first->xAt(first->size() - 1))));
}

/// Cuts the files into runs by the recipe as it stands.
void TraceImportPage::understand() {
    m_runs.clear();
    QStringList look = m_unread;
    for (const TraceFile& file : m_files) {
        auto runs = runsOf(file, m_recipe);
        if (!runs) {
            look << text(runs.error().text());
            continue;
        }
        m_runs.insert(m_runs.end(), runs->begin(), runs->end());
        for (const std::string& warning : file.content.warnings) {
            look << (m_files.size() > 1 ? text(file.source) + QStringLiteral(": ") : QString()) + text(warning);
        }
    }
    m_understood->setText(understoodText());
    m_warnings->setText(look.isEmpty() ? tr("Nothing: every point was understood.") : look.join(u'\n'));
    m_accept->setEnabled(!m_runs.empty());
    m_namedByRow->setVisible(m_namedBy->count() > 1 &&
                             m_runs.size() == m_files.size()); // the runs of one file have names
    m_model->refresh();
    showTraces();
}

/// What the file says of itself, as far as it could be a name.
void TraceImportPage::fillNames() {
    constexpr std::size_t kLongest = 60;
    m_namedBy->clear();
    m_namedBy->addItem(tr("as understood"));
    for (std::size_t i = 0; content() && i < content()->header.size(); ++i) {
        const auto& [key, value] = content()->header[i];
        if (value.empty() || value.size() > kLongest || value.find('\n') != std::string::npos) {
            continue;
        }
        m_namedBy->addItem(text(key) + QStringLiteral(": ") + text(value), text(key));
        if (key == m_recipe.nameKey) {
            m_namedBy->setCurrentIndex(m_namedBy->count() - 1);
        }
    }
}

void TraceImportPage::showTraces() {
    std::vector<PlottedTrace> traces;
    for (const ImportedRun& run : m_runs) {
        for (const auto& [name, payload] : run.channels) {
            const auto trace = payload.trace();
            const bool isLike = traces.empty() || trace->yUnit == traces.front().trace->yUnit;
            if (traces.size() < kMostShown && trace->size() > 1 && isLike) {
                traces.push_back({trace,
                                  nullptr,
                                  {overlaidColour(traces.size()), 1.2, 1, 0},
                                  m_runs.size() == 1 ? text(name)
                                  : run.name.empty() ? text(run.source)
                                                     : text(run.name),
                                  {}});
            }
        }
    }
    if (traces.size() > 12) { // names would cover the traces
        std::ranges::for_each(traces, [](PlottedTrace& one) { one.name.clear(); });
    }
    const auto first = traces.empty() ? nullptr : traces.front().trace;
    m_plot->setTraces(std::move(traces), first ? axisTitle(first->xName, first->xUnit) : QString(),
                      first ? axisTitle(first->yName, first->yUnit) : QString());
    m_plot->setZoom(std::nullopt);
}

void TraceImportPage::show(std::vector<TraceFile> files, const Batch* batch, const QStringList& unread, int waiting) {
    m_files = std::move(files);
    m_recipe = batch ? batch->method.traceRecipe : TraceRecipe{};
    m_unread = unread;
    m_names = content() ? columnNames(*content()) : std::vector<std::string>{};
    m_title->setText(m_files.size() == 1 ? tr("Understood of %1").arg(text(m_files.front().source))
                                         : tr("Understood of %1 files").arg(m_files.size()));
    QString note = batch ? tr("Nothing is changed until you import it. The runs go on below those of the open batch.")
                         : tr("Nothing is made until you import it; then a new batch begins with it.");
    if (m_recipe != TraceRecipe{}) {
        note += tr(" It is read as the last of the kind was.");
    }
    if (waiting > 0) {
        note += QStringLiteral(" ") +
                (waiting == 1 ? tr("One more file follows.") : tr("%1 more files follow.").arg(waiting));
    }
    m_note->setText(note);
    m_x->clear();
    for (const std::string& name : m_names) {
        m_x->addItem(text(name));
    }
    const auto x = std::ranges::find(m_names, m_recipe.x);
    m_x->setCurrentIndex(x == m_names.end() ? 0 : static_cast<int>(x - m_names.begin()));
    const bool isText = content() && content()->format == "text";
    m_xRow->setVisible(isText && m_names.size() > 1);
    m_columnsAreRow->setVisible(isText && content()->traces.size() > 1);
    fillNames();
    QStringList header;
    for (std::size_t i = 0; content() && i < content()->header.size(); ++i) {
        const auto& [key, value] = content()->header[i];
        header << text(key) + QStringLiteral(": ") + text(value);
    }
    m_header->setText(header.isEmpty() ? tr("nothing") : header.join(u'\n'));
    understand();
    const bool areRuns = m_recipe.columns == ColumnsAre::Runs ||
                         (m_recipe.columns == ColumnsAre::Guessed && m_runs.size() > m_files.size());
    m_columnsAre->setCurrent(areRuns ? 1 : 0);
    m_accept->setFocus();
}

} // namespace nuvat
