#include "session/workspace.h"

#include "nuvat/report/theme.h"
#include "session/report_layout.h"

#include <algorithm>
#include <iterator>

namespace nuvat {

bool Selection::holds(Place place) const {
    return std::find(places.begin(), places.end(), place) != places.end();
}

Workspace::Workspace(QObject* parent, std::chrono::milliseconds patience) : QObject(parent), m_patience(patience) {
    m_shown.batch = std::make_shared<const Batch>();
    m_shown.evaluation = std::make_shared<const Evaluation>(nuvat::evaluate(*m_shown.batch));
    connect(&m_runner, &EvaluationRunner::ready, this, [this] { showWhatIsReady(std::chrono::milliseconds(0)); });
    m_report = new ReportLayout(*this);
}

Workspace::~Workspace() {
    remember();
}

std::vector<Place> withDragged(std::vector<Place> before, const std::vector<Place>& places) {
    const auto isIn = [&before](Place p) { return std::find(before.begin(), before.end(), p) != before.end(); };
    const bool allThere = !before.empty() && std::all_of(places.begin(), places.end(), isIn);
    for (const Place place : places) {
        if (allThere) {
            std::erase(before, place);
        } else if (!isIn(place)) {
            before.push_back(place);
        }
    }
    return before;
}

const Batch& Workspace::newest() const {
    return m_open.document ? m_open.document->batch() : m_none;
}

void Workspace::open(OpenBatch batch) {
    replaceDocument(std::move(batch));
    QString notes;
    for (const std::string& note : m_open.notes) {
        notes += (notes.isEmpty() ? QString() : QStringLiteral(" ")) + text(note);
    }
    if (!notes.isEmpty()) {
        tell(notes, m_open.isReadOnly);
    }
}

const AnalyteEvaluation& Workspace::curve() const {
    const AnalyteEvaluation& whole = evaluation();
    if (whole.additions.empty() || m_lineOf == 0 || m_lineOf == whole.shownSample) {
        return whole;
    }
    if (const auto key = std::pair(&whole, m_lineOf); m_curveOf != key) {
        m_curve = withLineOf(batch(), whole, m_lineOf);
        m_curveOf = key;
    }
    return *m_curve;
}

void Workspace::close() {
    replaceDocument({});
}

void Workspace::commitPending() {
    if (m_open.document) {
        Q_EMIT aboutToReplace();
    }
}

void Workspace::replaceDocument(OpenBatch batch) {
    commitPending(); // what is still being typed belongs to the batch that goes
    if (!m_afterwards.empty()) {
        settle(); // so does what waits to be done with its results
    }
    remember();
    m_open = std::move(batch);
    if (m_open.document) {
        m_open.document->onChanged([this] {
            ask();
            Q_EMIT edited();
            showWhatIsReady(m_patience);
            if (isLate()) {
                Q_EMIT becameLate();
            }
        });
    }
    m_selection = {};
    m_hovered.reset();
    ask();
    m_isReplacing = true;
    settle(); // there is nothing of it to be shown before
}

bool Workspace::saveAs(const std::filesystem::path& path) {
    if (const auto saved = nuvat::saveAs(m_open, path); !saved) {
        tell(saved.error());
        return false;
    }
    Q_EMIT changed();
    return true;
}

bool Workspace::saveCopy(const std::filesystem::path& path) {
    if (const auto saved = nuvat::saveCopy(m_open, path); !saved) {
        tell(saved.error());
        return false;
    }
    tell(tr("A copy was saved as %1; this batch stays where it is.").arg(QString::fromStdString(path.string())), false);
    return true;
}

bool Workspace::apply(Result<Command> command) {
    if (!m_open.document) {
        return false;
    }
    if (const auto done = m_open.document->apply(std::move(command)); !done) {
        tell(done.error());
        return false;
    }
    return true;
}

void Workspace::undo() {
    if (m_open.document) {
        if (const auto done = m_open.document->undo(); !done) {
            tell(done.error());
        }
    }
}

void Workspace::redo() {
    if (m_open.document) {
        if (const auto done = m_open.document->redo(); !done) {
            tell(done.error());
        }
    }
}

void Workspace::ask() {
    m_runner.ask(++m_asked, std::make_shared<const Batch>(newest()), std::exchange(m_open.measured, {}));
}

void Workspace::remember() {
    if (m_open.document && m_open.document->journal()) {
        m_open.document->journal()->remember(newest(), wholeEvaluation());
    }
}

void Workspace::settle() {
    while (isLate()) {
        showWhatIsReady(std::chrono::hours(1));
    }
}

void Workspace::afterwards(std::function<void()> then) {
    if (isLate()) {
        m_afterwards.push_back(std::move(then));
    } else {
        then();
    }
}

void Workspace::showWhatIsReady(std::chrono::milliseconds patience) {
    std::optional<Evaluated> next;
    try {
        next = m_runner.take(m_asked, patience);
    } catch (const std::exception& e) {
        // It will not come: what is shown stays, and nothing of a batch that could not be evaluated at all.
        m_shown.revision = m_asked;
        if (m_isReplacing) {
            m_open = {};
            next = Evaluated{m_asked, std::make_shared<const Batch>(),
                             std::make_shared<const Evaluation>(nuvat::evaluate({}))};
        }
        tell(
            tr("The batch could not be evaluated (%1); what is shown is from before.").arg(QString::fromUtf8(e.what())),
            true);
    }
    // While edits come faster than they are evaluated, what is between them is shown now and then.
    constexpr int kStepMillis = 300;
    if (next && (next->revision == m_asked || !m_sinceShown.isValid() || m_sinceShown.elapsed() > kStepMillis)) {
        show(std::move(*next));
    }
    if (!isLate()) {
        for (const auto& then : std::exchange(m_afterwards, {})) {
            then();
        }
    }
}

void Workspace::show(Evaluated next) {
    // Whoever edited still looks at what was shown: it goes when they have returned.
    QMetaObject::invokeMethod(
        this, [before = std::exchange(m_shown, std::move(next))] {}, Qt::QueuedConnection);
    m_sinceShown.start();
    m_curveOf = {};
    m_analyte = std::min(m_analyte, static_cast<int>(batch().method.analytes.size()));
    const bool isOther = std::exchange(m_isReplacing, false);
    if (isOther || !batch().carriers.contains(m_carrier)) {
        m_carrier = batch().carriers.begin()->first;
        m_bracket = 0;
    }
    if (isOther) {
        m_lineOf = 0;
        Q_EMIT opened();
        Q_EMIT changed();
        Q_EMIT selectionChanged();
        return;
    }
    // An undone import may have taken wells away that were selected.
    std::erase_if(m_selection.places, [this](Place place) { return !batch().holds(place); });
    if (m_hovered && !batch().holds(*m_hovered)) {
        m_hovered.reset();
    }
    Q_EMIT changed(); // first, so that every table has its new rows when the selection follows
    if (m_selection.criterion.empty()) {
        select(m_selection.places); // what was one group may have become two, or none
    } else {
        selectCriterion(m_selection.criterion);
    }
}

Snapshot Workspace::snapshot() const {
    Snapshot out{m_shown.batch, m_shown.evaluation, {}, 0};
    if (m_open.document) {
        out.history = m_open.document->history();
        out.timeMillis = m_open.document->now();
    }
    return out;
}

void Workspace::showAnalyte(int number) {
    if (number >= 1 && number <= static_cast<int>(batch().method.analytes.size()) && number != m_analyte) {
        m_analyte = number;
        Q_EMIT changed();
        Q_EMIT selectionChanged();
    }
}

void Workspace::showCarrier(int number) {
    if (number != m_carrier && batch().carriers.contains(number)) {
        m_carrier = number;
        m_bracket = 0;
        Q_EMIT carrierChanged();
        if (evaluation().carrier != 0) { // another curve with it
            Q_EMIT changed();
        }
    }
}

void Workspace::showBracket(int number) {
    if (number != evaluation().bracket && wholeEvaluation().analyte(m_analyte, m_carrier, number).bracket == number) {
        m_bracket = number;
        Q_EMIT changed();
    }
}

/// A run whose curve is not the one that is shown brings its own up; standards that two share leave it as it is.
void Workspace::followBracket(Place place) {
    const auto isIn = [place](const GroupValue& group) { return std::ranges::count(group.places, place) > 0; };
    if (evaluation().bracket != 0 && std::ranges::none_of(evaluation().groups, isIn)) {
        showBracket(wholeEvaluation().at(m_analyte, place).bracket);
    }
}

/// What is selected is shown: a selection that lies on other carriers alone brings the first of them up.
void Workspace::setSelection(Selection next) {
    if (next == m_selection) {
        return;
    }
    m_selection = std::move(next);
    const auto& places = m_selection.places;
    if (std::none_of(places.begin(), places.end(), [this](Place p) { return p.carrier == m_carrier; }) &&
        !places.empty()) {
        showCarrier(places.front().carrier);
    }
    if (!places.empty()) {
        followBracket(places.front());
    }
    for (const Place place : places) {
        const Assignment group = batch().at(place);
        m_lineOf = group.role == Role::Unknown || group.role == Role::Addition ? group.number : m_lineOf;
    }
    Q_EMIT selectionChanged();
}

void Workspace::select(const std::vector<Place>& places) {
    Selection next;
    std::copy_if(places.begin(), places.end(), std::back_inserter(next.places),
                 [this](Place place) { return batch().holds(place); });
    if (!next.places.empty()) {
        const Assignment group = batch().at(next.places.front());
        const bool isOne =
            std::all_of(next.places.begin(), next.places.end(), [&](Place p) { return batch().at(p) == group; });
        if (isOne && group.role != Role::Empty) {
            next.group = group;
        }
    }
    setSelection(std::move(next));
}

void Workspace::selectGroup(Assignment group) {
    const auto places = index().members(group);
    select({places.begin(), places.end()});
}

void Workspace::selectCriterion(const std::string& key) {
    Selection next;
    next.criterion = key;
    for (const CriterionResult& criterion : evaluation().criteria) {
        if (criterion.key == key) {
            next.places = criterion.places;
        }
    }
    setSelection(std::move(next));
}

void Workspace::clearSelection() {
    select({});
}

void Workspace::hover(std::optional<Place> place) {
    if (place != m_hovered) {
        m_hovered = place;
        Q_EMIT hoverChanged();
    }
}

void Workspace::tell(const QString& sentence, bool isError) {
    Q_EMIT noticed(sentence, isError);
}
void Workspace::offer(const QString& sentence, const QString& buttonText, std::function<void()> action) {
    Q_EMIT offered(sentence, buttonText, std::move(action));
}

void Workspace::tell(const Error& error) {
    tell(text(error.text()), true);
}

} // namespace nuvat
