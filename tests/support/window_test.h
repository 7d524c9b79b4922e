#pragma once
// A real window with the demo in it, fresh for each test; and answers for the questions that it asks.

#include "wait.h"

#include "app/theme/theme.h"
#include "app/widgets/clock.h"
#include "app/window/main_window.h"

#include <QAbstractButton>
#include <QApplication>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QWindow>

#include <memory>

class WindowTest : public QObject {
    Q_OBJECT
  protected:
    QTemporaryDir dir;
    std::unique_ptr<ember::app::MainWindow> w;

    template <typename T>
    T* child(const QString& name) {
        return w->findChild<T*>(name);
    }
    ember::app::Document& doc() { return w->document(); }
    /// Until everything is computed and drawn.
    void settle() {
        waitForSolve();
        draw();
    }
    /// Until the steady figures are those of the build; curves and power are still on their way.
    void settleSteady() {
        waitForFigures();
        draw();
    }
    void waitForFigures() {
        if (!ember::tests::comes([this] { return doc().steady(); })) qFatal("waited in vain for the steady figures");
    }
    /// Until the document computes nothing.
    void waitForSolve() {
        if (!ember::tests::comes([this] { return doc().atRest(); })) qFatal("waited in vain for the document's rest");
        QCoreApplication::processEvents();
    }
    /// What arrives is drawn in turns of its own, the last 30 ms later.
    void draw() { pass(60); }
    /// Lets the window's time go by: what is due by then has happened.
    void pass(int ms) {
        QCoreApplication::processEvents();
        for (int k = 0; k < ms; k += 10) {
            ember::app::Clock::move(10);
            QCoreApplication::processEvents();
        }
    }
    void type(QLineEdit* field, const QString& words) {
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, words);
        QTest::keyClick(field, Qt::Key_Return);
    }
    /// The next message box is answered with `button`; `seen` holds what it said.
    void answer(QMessageBox::StandardButton button, QString* seen = nullptr) {
        QTimer::singleShot(5, qApp, [this, button, seen] {
            auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
            if (!box) return answer(button, seen);
            if (seen) *seen = box->text();
            box->button(button)->click();
        });
    }
    /// The next question for a text gets `words`.
    void answerText(const QString& words) {
        QTimer::singleShot(5, qApp, [this, words] {
            auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
            if (!dialog) return answerText(words);
            dialog->setTextValue(words);
            dialog->accept();
        });
    }
    std::unique_ptr<ember::app::MainWindow> freshWindow() {
        auto made = std::make_unique<ember::app::MainWindow>(dir.filePath("state"));
        // What a window does with bands is tested here; how wide they are is tested without one.
        made->document().setBandSamples(ember::procedure::roughSamples);
        made->resize(1280, 800);
        return made;
    }

  private Q_SLOTS:
    void initTestCase() {
        QCoreApplication::setOrganizationName("dim-ember-test-" + QString(metaObject()->className()));
        QSettings().clear();
        ember::theme::apply(*qApp, ember::theme::Mode::Dusk);
        ember::app::Clock::hold();
        ember::tests::betweenLooks() = [] { ember::app::Clock::move(10); };
    }
    void init() {
        w = freshWindow();
        w->openDemo();
        w->show();
        WAIT_FOR(w->windowHandle()->isExposed());
        waitForFigures();
    }
    void cleanup() {
        if (w) doc().discardJournal();
        w.reset();
    }
};
