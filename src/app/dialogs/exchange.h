#pragma once

#include "dialogs/file_dialogs.h"
#include "nuvat/batch/run_commands.h"
#include "session/workspace.h"

namespace nuvat {

/// Parts of a batch that go to files of their own and come back: layouts, curves, workbooks, pictures. Asks for the
/// file, does it, and says so in the notice bar.
class Exchange {
public:
    Exchange(Workspace& workspace, FileDialogs& dialogs, QWidget* parent)
        : m_workspace(workspace), m_dialogs(dialogs), m_parent(parent) {}
    void exportLayout();
    void importLayout();
    void importSamples(); ///< names from a file, from the selected unknown on
    void takeAnalytes();  ///< from a list in a file
    void planRuns();      ///< the same for runs
    void buildRunList();
    void planStandards();
    void setNameRules();
    void takeRolesFromNames();
    void setRunRule();
    void repeatDiluted(); ///< samples above ULOQ go on the list again
    void applyToAll();    ///< what the analyte shown has that all may have
    void groupChannelsByName();
    void groupChannelsByTwo();
    void groupChannelsByThree();
    void swapQuantifier();
    /// Pasted lists of analytes or runs. @return false: it is none
    bool pasteList(const std::string& pasted, bool isOfRuns);
    void keepCurve();
    void useKeptCurve();
    /// A kept curve to lay behind the one that is shown.
    std::optional<KeptCurve> askKeptCurve();
    void useOwnStandards(); ///< instead of a kept curve
    void exportWorkbook();
    void printReport();
    /// What the method says of a reading that came in: results and report go beside the batch.
    void whenComplete();
    void savePicture(QWidget& picture);
    void copyPicture(QWidget& picture);

private:
    QString fileName(const QString& ending) const;
    std::optional<std::string> askList(const QString& title, QString& name);
    void useRuns(Result<std::vector<PlannedRun>> runs);
    void tellOf(const Result<void>& written, const QString& sentence);
    Workspace& m_workspace;
    FileDialogs& m_dialogs;
    QWidget* m_parent;
};

} // namespace nuvat
