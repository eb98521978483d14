#include "window_fixture.h"

#include "kinds/plate/plate_view.h"
#include "nuvat/workflow/session.h"
#include "session/report_layout.h"
#include "widgets/frame_widgets.h"

#include <QApplication>
#include <QComboBox>
#include <QDialog>
#include <QDropEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QMimeData>
#include <QPrinter>
#include <QPushButton>
#include <QTest>
#include <QTimer>

namespace nuvat::test {

std::optional<QString> AnsweredDialogs::answer() {
    if (m_answers.empty()) {
        return std::nullopt;
    }
    const QString path = m_answers.front();
    m_answers.erase(m_answers.begin());
    return path;
}

bool AnsweredDialogs::choosePrinter(QWidget*, QPrinter& printer) {
    const auto file = answer();
    printer.setOutputFormat(QPrinter::PdfFormat);
    printer.setOutputFileName(file.value_or(QString()));
    return file.has_value();
}

void WindowTest::SetUp() {
    std::filesystem::remove_all(methodsFolder()); // what an earlier test kept
    // No edit finds its evaluation done when it returns: what would go wrong between the two shows.
    m_workspace = std::make_unique<Workspace>(nullptr, std::chrono::milliseconds(0));
    m_window = std::make_unique<MainWindow>(*m_workspace, m_dialogs);
    m_window->resize(1280, 800);
    m_window->show();
    ASSERT_TRUE(QTest::qWaitForWindowExposed(m_window.get()));
    m_window->activateWindow();
    wait();
}

void WindowTest::TearDown() {
    m_window.reset();
    m_workspace.reset();
}

void WindowTest::wait(int millis) const {
    QTest::qWait(millis);
    EXPECT_TRUE(QTest::qWaitFor([this] { return !m_workspace->isLate(); }, 30'000));
    QApplication::processEvents();
}

void WindowTest::startDemo() {
    auto demo = demoBatch(m_folder / "demo.nuvat");
    ASSERT_TRUE(demo) << demo.error().text();
    m_workspace->open(std::move(*demo));
    wait();
}

void WindowTest::settle() const {
    EXPECT_TRUE(QTest::qWaitFor([this] { return !m_workspace->report().isLate(); }, 30'000)); // as long as wait()
    wait();
}

bool WindowTest::isOnScreen(const char* objectName) const {
    const auto* widget = m_window->findChild<QWidget*>(QString::fromLatin1(objectName));
    return widget != nullptr && widget->isVisible();
}

QString WindowTest::words(const char* label) const {
    const auto* found = m_window->findChild<QLabel*>(QString::fromLatin1(label));
    return found == nullptr ? QString() : found->text();
}

void WindowTest::click(const char* button) const {
    auto* widget = find<QWidget>(button);
    ASSERT_NE(widget, nullptr);
    ASSERT_TRUE(widget->isVisible()) << button << " is not on the screen";
    ASSERT_TRUE(widget->isEnabled()) << button << " is disabled";
    QTest::mouseClick(widget, Qt::LeftButton);
    wait();
}

void WindowTest::clickChain(ChainPage page) const {
    QTest::mouseClick(m_window->findChild<ChainRail*>()->card(page), Qt::LeftButton);
    wait();
}

void WindowTest::key(int key, Qt::KeyboardModifiers modifiers) const {
    QWidget* focus = QApplication::focusWidget();
    QTest::keyClick(focus != nullptr ? focus : m_window.get(), static_cast<Qt::Key>(key), modifiers);
    wait();
}

void WindowTest::clickWell(const char* plate, Place place, Qt::KeyboardModifiers modifiers) const {
    auto* view = find<PlateView>(plate);
    QTest::mouseClick(view, Qt::LeftButton, modifiers, view->wellRect(place).center().toPoint());
    wait();
}

void WindowTest::dragOver(QWidget& widget, QPointF from, QPointF to) const {
    QTest::mousePress(&widget, Qt::LeftButton, {}, from.toPoint());
    for (int step = 1; step <= 4; ++step) {
        const QPointF at = from + (to - from) * step / 4;
        QMouseEvent move(QEvent::MouseMove, at, widget.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(&widget, &move);
    }
    QTest::mouseRelease(&widget, Qt::LeftButton, {}, to.toPoint());
    wait();
}

void WindowTest::dragWells(const char* plate, Place from, Place to) const {
    auto* view = find<PlateView>(plate);
    const QPoint start = view->wellRect(from).center().toPoint();
    const QPoint end = view->wellRect(to).center().toPoint();
    QTest::mousePress(view, Qt::LeftButton, {}, start);
    // QTest::mouseMove carries no buttons; a drag needs them.
    QMouseEvent move(QEvent::MouseMove, QPointF(end), view->mapToGlobal(QPointF(end)), Qt::NoButton, Qt::LeftButton,
                     {});
    QApplication::sendEvent(view, &move);
    QTest::mouseRelease(view, Qt::LeftButton, {}, end);
    wait();
}

void WindowTest::choose(const char* choice, const QString& item) const {
    auto* box = find<QComboBox>(choice);
    const int index = box->findText(item);
    ASSERT_GE(index, 0) << item.toStdString();
    box->showPopup();
    wait();
    QAbstractItemView* view = box->view();
    view->setCurrentIndex(box->model()->index(index, 0));
    QTest::keyClick(view, Qt::Key_Return);
    m_window->activateWindow(); // as a window manager does when a list closes
    wait();
}

void WindowTest::typeInto(const char* field, const QString& text, bool withEnter) const {
    auto* line = find<QLineEdit>(field);
    ASSERT_TRUE(line->isVisible()) << field;
    line->setFocus();
    line->selectAll();
    QTest::keyClicks(line, text);
    if (withEnter) {
        QTest::keyClick(line, Qt::Key_Return);
    }
    wait();
}

void WindowTest::drop(const std::vector<std::filesystem::path>& paths) const {
    QMimeData mime;
    QList<QUrl> urls;
    for (const auto& path : paths) {
        urls << QUrl::fromLocalFile(QString::fromStdString(path.string()));
    }
    mime.setUrls(urls);
    QDragEnterEvent enter(QPoint(500, 400), Qt::CopyAction, &mime, Qt::LeftButton, {});
    QApplication::sendEvent(m_window.get(), &enter);
    ASSERT_TRUE(enter.isAccepted());
    QDropEvent event(QPointF(500, 400), Qt::CopyAction, &mime, Qt::LeftButton, {});
    QApplication::sendEvent(m_window.get(), &event);
    if (paths.size() == 1 && paths.front().extension() == ".nuvat") { // a batch is opened at once
        wait();
        return;
    }
    // The file is read off the UI thread; wait until either the preview or a sentence is there.
    (void)QTest::qWaitFor(
        [this] { return isOnScreen("importTitle") || isOnScreen("traceImportTitle") || !notice().isEmpty(); }, 10'000);
    wait();
}

QString WindowTest::cell(const char* table, int row, const QString& heading) const {
    const QAbstractItemModel* model = find<QTableView>(table)->model();
    for (int column = 0; column < model->columnCount(); ++column) {
        if (model->headerData(column, Qt::Horizontal).toString().startsWith(heading)) {
            return model->index(row, column).data().toString();
        }
    }
    ADD_FAILURE() << "no column " << heading.toStdString();
    return {};
}

int WindowTest::rowOf(const char* table, const QString& firstCell) const {
    const QAbstractItemModel* model = find<QTableView>(table)->model();
    for (int row = 0; row < model->rowCount(); ++row) {
        if (model->index(row, 0).data().toString() == firstCell) {
            return row;
        }
    }
    ADD_FAILURE() << "no row " << firstCell.toStdString();
    return -1;
}

QString WindowTest::cellOf(const char* table, const QString& firstCell, const QString& heading) const {
    return cell(table, rowOf(table, firstCell), heading);
}

/// Waits for a dialog as long as it takes to open, so that none stays open and stops the test.
void WindowTest::onDialog(std::function<void(QDialog*)> answer) const {
    auto* timer = new QTimer(m_window.get());
    timer->setInterval(20);
    constexpr int kMostTries = 300;
    QObject::connect(timer, &QTimer::timeout, m_window.get(), [timer, answer = std::move(answer), tries = 0]() mutable {
        auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
        // A person types once the dialog has come to the front; on a busy machine that takes a while.
        if ((dialog == nullptr || !dialog->isActiveWindow()) && ++tries < kMostTries) {
            return;
        }
        timer->stop();
        timer->deleteLater();
        if (dialog == nullptr) {
            ADD_FAILURE() << "no dialog opened";
        } else {
            answer(dialog);
        }
    });
    timer->start();
}

void WindowTest::withReason(const std::function<void()>& action, const QString& reason) const {
    bool wasAsked = false;
    onDialog([&](QDialog* dialog) {
        auto* line = dialog->findChild<QLineEdit*>(QStringLiteral("askLine"));
        auto* accept = dialog->findChild<QPushButton*>(QStringLiteral("askAccept"));
        EXPECT_FALSE(accept->isEnabled()) << "an exclusion without a reason";
        QTest::keyClicks(line, reason);
        EXPECT_TRUE(accept->isEnabled());
        QTest::mouseClick(accept, Qt::LeftButton);
        wasAsked = true;
    });
    action();
    EXPECT_TRUE(QTest::qWaitFor([&] { return wasAsked; }, 3000));
    m_window->activateWindow(); // without a window manager nobody else gives the focus back
    wait();
}

void WindowTest::withDialog(const std::function<void()>& action, const QString& dialogName,
                            const std::function<void(QDialog&)>& answer) const {
    bool wasAsked = false;
    onDialog([&](QDialog* dialog) {
        EXPECT_EQ(dialog->objectName(), dialogName);
        answer(*dialog);
        if (dialog->isVisible()) {
            ADD_FAILURE() << "the dialog stayed open";
            dialog->reject();
        }
        wasAsked = true;
    });
    action();
    EXPECT_TRUE(QTest::qWaitFor([&] { return wasAsked; }, 3000));
    m_window->activateWindow();
    wait();
}

void WindowTest::triggerAction(const char* id) const {
    for (QAction* action : m_window->findChildren<QAction*>()) {
        if (action->objectName() == QString::fromLatin1(id)) {
            action->trigger();
            wait();
            return;
        }
    }
    ADD_FAILURE() << "no action " << id;
}

QString WindowTest::notice() const {
    return m_window->notice()->sentence();
}
QString WindowTest::status() const {
    return m_window->findChild<StatusLine*>()->facts();
}

} // namespace nuvat::test
