#pragma once

#include "dialogs/file_dialogs.h"
#include "nuvat/store/method_file.h"
#include "session/workspace.h"

#include <QMenu>

namespace nuvat {

/// What can be done with the method of the batch: keep it as a revision, take another, see what differs.
class MethodMenu : public QMenu {
    Q_OBJECT
public:
    MethodMenu(Workspace& workspace, FileDialogs& dialogs, QWidget* parent);
    /// "Patulin kit, revision 4", and whether the batch's copy differs from what is kept under that name.
    QString title();
    void keep(); ///< as the next revision
    void takeFromFile();
    void take(const Result<MethodFile>& method);
    void saveAsFile();
    /// The kept methods, for a batch that begins with one of them.
    QMenu* startMenu() const { return m_start; }

Q_SIGNALS:
    void curveAsked();
    void startAsked(const nuvat::Result<nuvat::MethodFile>& method); ///< a batch is to begin with it
    void kept();                                                     ///< the title may be another one now

private:
    void fill();
    using Use = void (MethodMenu::*)(const Result<MethodFile>&);
    void fillStart();
    void addNewest(QMenu* menu, const std::vector<MethodEntry>& entries, Use use);
    void addRevisions(QMenu* menu, const MethodEntry& entry);
    void addComparison(QMenu* menu, const std::string& title, int before, int after);
    void rename();
    MethodLibrary library() const;
    /// The kept revision that the batch's copy goes by; nothing where none is kept.
    const MethodFile* base();
    Workspace& m_workspace;
    FileDialogs& m_dialogs;
    QWidget* m_parent;
    QMenu* m_start;
    std::optional<std::pair<std::string, int>> m_baseOf; ///< title and revision that it was looked for
    std::optional<MethodFile> m_base;
};

} // namespace nuvat
