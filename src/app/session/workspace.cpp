#include "session/workspace.h"

#include "nuvat/report/theme.h"
#include "session/report_layout.h"

#include <algorithm>
#include <iterator>

namespace nuvat {

bool Selection::holds(Place place) const {
    return std::find(places.begin(), places.end(), place) != places.end();
}

Workspace::Workspace(QObject* parent) : QObject(parent) {
    evaluateAgain();
    m_report = new ReportLayout(*this);
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

const Batch& Workspace::batch() const {
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
    m_open = std::move(batch);
    if (m_open.document) {
        m_open.document->onChanged([this] { recompute(); });
    }
    m_selection = {};
    m_hovered.reset();
    m_carrier = this->batch().carriers.begin()->first;
    evaluateAgain();
    Q_EMIT opened();
    Q_EMIT changed();
    Q_EMIT selectionChanged();
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

void Workspace::evaluateAgain() {
    m_evaluation = m_evaluator.evaluate(batch());
    m_analyte = std::min(m_analyte, static_cast<int>(batch().method.analytes.size()));
    if (!batch().carriers.contains(m_carrier)) {
        m_carrier = this->batch().carriers.begin()->first;
    }
    ++m_revision;
}

Snapshot Workspace::snapshot() const {
    Snapshot out{std::make_shared<const Batch>(batch()), m_evaluation, {}, 0};
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
        Q_EMIT carrierChanged();
        if (evaluation().carrier != 0) { // another curve with it
            Q_EMIT changed();
        }
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
    Q_EMIT selectionChanged();
}

void Workspace::recompute() {
    evaluateAgain();
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
