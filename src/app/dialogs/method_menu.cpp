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
    for (const MethodEntry& entry : library().entries()) {
        addAction(tr("%1, revision %2").arg(text(entry.title)).arg(entry.revisions.back()), this,
                  [this, title = entry.title] { take(library().newest(title)); });
    }
    addAction(tr("From a file…"), this, &MethodMenu::takeFromFile);
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
