#pragma once

#include "dialogs/file_dialogs.h"
#include "main_window.h"
#include "support/reference.h"

#include <gtest/gtest.h>
#include <memory>
#include <QDialog>
#include <QTableView>

namespace nuvat::test {

/// Answers the file dialogs; nothing when the queue is empty (as if cancelled).
class AnsweredDialogs : public FileDialogs {
public:
    std::optional<QString> openFile(QWidget*, const QString&, const QString&) override { return answer(); }
    QStringList openFiles(QWidget*, const QString&, const QString&) override {
        const auto one = answer();
        return one ? QStringList{*one} : QStringList{};
    }
    std::optional<QString> openFolder(QWidget*, const QString&) override { return answer(); }
    std::optional<QString> saveFile(QWidget*, const QString&, const QString& suggested, const QString&,
                                    const QString&) override {
        lastSuggested = suggested;
        return answer();
    }
    bool choosePrinter(QWidget*, QPrinter& printer) override; ///< into the next file, as PDF
    void next(const std::filesystem::path& path) { m_answers.push_back(QString::fromStdString(path.string())); }
    QString lastSuggested;

private:
    std::optional<QString> answer();
    std::vector<QString> m_answers;
};

/// The real window, offscreen, driven by clicks, keys and drops.
class WindowTest : public testing::Test {
protected:
    void SetUp() override;
    void TearDown() override;

    void startDemo(); ///< the demo batch, in a file of its own
    void wait(int millis = 0) const;
    void settle() const; ///< until what follows an edit off the UI thread is there
    bool isOnScreen(const char* objectName) const;
    QString words(const char* label) const; ///< of a QLabel; empty when it is not there
    template<class T> T* find(const char* objectName) const {
        T* widget = m_window->findChild<T*>(QString::fromLatin1(objectName));
        EXPECT_NE(widget, nullptr) << objectName;
        return widget;
    }
    void click(const char* button) const;
    void clickChain(ChainPage page) const;
    void key(int key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) const; ///< to whatever has the focus
    void clickWell(const char* plate, Place place, Qt::KeyboardModifiers modifiers = Qt::NoModifier) const;
    /// Presses, moves in steps and lets go, as a hand does.
    void dragOver(QWidget& widget, QPointF from, QPointF to) const;
    void dragWells(const char* plate, Place from, Place to) const;
    void choose(const char* choice, const QString& item) const; ///< as a person does in a list
    void typeInto(const char* field, const QString& text, bool withEnter = true) const;
    void drop(const std::vector<std::filesystem::path>& paths) const;
    void drop(const std::filesystem::path& path) const { drop(std::vector{path}); }
    QString cell(const char* table, int row, const QString& heading) const;
    QString cellOf(const char* table, const QString& firstCell, const QString& heading) const;
    int rowOf(const char* table, const QString& firstCell) const;
    /// Runs `action`, which opens the reason dialog; types the reason and presses the real button.
    void withReason(const std::function<void()>& action, const QString& reason) const;
    /// Runs `action`, which opens the dialog of that name, and hands the dialog to `answer`, which has to close it.
    void withDialog(const std::function<void()>& action, const QString& dialogName,
                    const std::function<void(QDialog&)>& answer) const;
    void triggerAction(const char* id) const;
    void onDialog(std::function<void(QDialog*)> answer) const;
    QString notice() const;
    QString status() const;

    TemporaryFolder m_folder;
    AnsweredDialogs m_dialogs;
    std::unique_ptr<Workspace> m_workspace;
    std::unique_ptr<MainWindow> m_window;
};

} // namespace nuvat::test
