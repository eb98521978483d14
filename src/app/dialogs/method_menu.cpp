#include "dialogs/method_menu.h"

#include "nuvat/report/calibration_figure.h"
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"

namespace nuvat {

namespace {
constexpr const char* kFilter = "Methods (*.nuvat-method);;All files (*)";
} // namespace

MethodMenu::MethodMenu(Workspace& workspace, FileDialogs& dialogs, QWidget* parent)
    : QMenu(parent), m_workspace(workspace), m_dialogs(dialogs), m_parent(parent) {
    setObjectName(QStringLiteral("methodMenu"));
    connect(this, &QMenu::aboutToShow, this, &MethodMenu::fill);
    m_start = new QMenu(tr("New batch from a method"), this);
    m_start->setObjectName(QStringLiteral("startMethods"));
    connect(m_start, &QMenu::aboutToShow, this, &MethodMenu::fillStart);
}

void MethodMenu::fillStart() {
    m_start->clear();
    addNewest(m_start, library().entries(), &MethodMenu::startAsked);
    m_start->addSeparator();
    m_start->addAction(tr("From a file…"), this, [this] {
        if (const auto path = m_dialogs.openFile(m_parent, tr("Begin with a method"), tr(kFilter))) {
            Q_EMIT startAsked(readMethod(pathOf(*path)));
        }
    });
}

/// @param use what is done with the one that is chosen
void MethodMenu::addNewest(QMenu* menu, const std::vector<MethodEntry>& entries, Use use) {
    for (const MethodEntry& entry : entries) {
        menu->addAction(tr("%1, revision %2").arg(text(entry.title)).arg(entry.revisions.back()), this,
                        [this, use, title = entry.title] { (this->*use)(library().newest(title)); });
    }
}

/// A revision can be taken, and is compared with each one before it; files are read when they are looked at.
void MethodMenu::addRevisions(QMenu* menu, const MethodEntry& entry) {
    for (auto revision = entry.revisions.rbegin(); revision != entry.revisions.rend(); ++revision) {
        QMenu* one = menu->addMenu(tr("Revision %1").arg(*revision));
        one->addAction(tr("Take revision %1").arg(*revision), this, [this, title = entry.title, number = *revision] {
            take(readMethod(library().pathOf(title, number)));
        });
        for (auto before = std::next(revision); before != entry.revisions.rend(); ++before) {
            addComparison(one, entry.title, *before, *revision);
        }
    }
}

void MethodMenu::addComparison(QMenu* menu, const std::string& title, int before, int after) {
    QMenu* changes = menu->addMenu(tr("What changed since revision %1").arg(before));
    connect(changes, &QMenu::aboutToShow, this, [this, changes, title, before, after] {
        changes->clear();
        const auto old = readMethod(library().pathOf(title, before));
        const auto now = readMethod(library().pathOf(title, after));
        if (!old || !now) {
            changes->addAction(text((old ? now : old).error().message))->setEnabled(false);
            return;
        }
        const auto differences = methodDifferences(*old, *now);
        for (const std::string& one : differences) {
            changes->addAction(shown(one))->setEnabled(false);
        }
        if (differences.empty()) {
            changes->addAction(tr("Nothing"))->setEnabled(false);
        }
    });
}

MethodLibrary MethodMenu::library() const {
    return MethodLibrary(methodsFolder());
}

const MethodFile* MethodMenu::base() {
    const Method& method = m_workspace.batch().method;
    if (std::pair now(method.title, method.revision); now != m_baseOf) { // what is kept never changes: read once
        m_baseOf = std::move(now);
        auto read = readMethod(library().pathOf(method.title, method.revision));
        m_base = read && read->method.title == method.title ? std::optional(std::move(*read)) : std::nullopt;
    }
    return m_base ? &*m_base : nullptr;
}

QString MethodMenu::title() {
    const Method& method = m_workspace.batch().method;
    const QString title = tr("%1, revision %2").arg(text(method.title)).arg(method.revision);
    const MethodFile* kept = base();
    return kept != nullptr && !(*kept == methodOf(m_workspace.batch())) ? tr("%1 · changed").arg(title) : title;
}

void MethodMenu::fill() {
    clear();
    addAction(tr("Show model and weighting"), this, &MethodMenu::curveAsked);
    addSeparator();
    addAction(tr("Keep as a revision of this method"), this, &MethodMenu::keep)
        ->setObjectName(QStringLiteral("methodKeep"));
    addAction(tr("Name this method…"), this, &MethodMenu::rename);
    addAction(tr("Save the method as a file…"), this, &MethodMenu::saveAsFile);
    if (const MethodFile* kept = base()) {
        const auto differences = methodDifferences(*kept, methodOf(m_workspace.batch()));
        addSection(differences.empty() ? tr("As it was kept") : tr("Differs from what was kept"));
        constexpr std::size_t kMost = 12;
        for (std::size_t i = 0; i < std::min(differences.size(), kMost); ++i) {
            addAction(shown(differences[i]))->setEnabled(false);
        }
        if (differences.size() > kMost) {
            addAction(tr("and %1 more").arg(differences.size() - kMost))->setEnabled(false);
        }
    }
    addSection(tr("Take another method"));
    const auto entries = library().entries();
    addNewest(this, entries, &MethodMenu::take);
    addAction(tr("From a file…"), this, &MethodMenu::takeFromFile);
    QMenu* revisions = addMenu(tr("Kept revisions"));
    revisions->setEnabled(!entries.empty());
    for (const MethodEntry& entry : entries) {
        addRevisions(revisions->addMenu(text(entry.title)), entry);
    }
}

void MethodMenu::keep() {
    const auto revision = library().keep(methodOf(m_workspace.newest()));
    m_baseOf.reset();
    if (!revision) {
        m_workspace.tell(revision.error());
        return;
    }
    Method method = m_workspace.newest().method;
    if (method.revision != *revision) {
        method.revision = *revision;
        m_workspace.apply(
            setMethod(m_workspace.newest(), method, "Method kept as revision " + std::to_string(*revision)));
    }
    m_workspace.tell(tr("The method was kept as %1, revision %2. Batches that have another revision stay as they are.")
                         .arg(text(method.title))
                         .arg(*revision),
                     false);
    Q_EMIT kept();
}

void MethodMenu::rename() {
    const auto name = askLine(m_parent, tr("Name this method"), tr("Name"), text(m_workspace.newest().method.title));
    if (name) {
        Method method = m_workspace.newest().method;
        method.title = name->toStdString();
        m_workspace.apply(setMethod(m_workspace.newest(), method, "Method → " + method.title));
        Q_EMIT kept();
    }
}

void MethodMenu::take(const Result<MethodFile>& method) {
    if (!method) {
        m_workspace.tell(method.error());
        return;
    }
    m_workspace.apply(useMethod(m_workspace.newest(), *method));
}

void MethodMenu::takeFromFile() {
    if (const auto path = m_dialogs.openFile(m_parent, tr("Take a method"), tr(kFilter))) {
        take(readMethod(pathOf(*path)));
    }
}

void MethodMenu::saveAsFile() {
    const MethodFile file = methodOf(m_workspace.newest());
    const auto path =
        m_dialogs.saveFile(m_parent, tr("Save the method"), text(file.method.title) + QStringLiteral(".nuvat-method"),
                           tr(kFilter), QStringLiteral("nuvat-method"));
    if (!path) {
        return;
    }
    if (const auto written = writeText(pathOf(*path), methodText(file)); !written) {
        m_workspace.tell(written.error());
    } else {
        m_workspace.tell(tr("The method was saved as %1.").arg(*path), false);
    }
}

} // namespace nuvat
