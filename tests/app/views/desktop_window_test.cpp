// SPDX-License-Identifier: GPL-3.0-or-later
// What every desktop program does: keys of pages, keys that can be changed, preferences, help. The real window.
#include "window_fixture.h"

#include "support/sample_setups.h"
#include <fell/app/views/documents_dialog.h>
#include <fell/measure/machine.h>

#include <QKeyEvent>
#include <QKeySequenceEdit>
#include <QMenu>
#include <QStackedWidget>

namespace fell::desktop_window_test {
namespace {

class DesktopWindowTest : public WindowTest {
protected:
    QString page() { return m_window->preferences().page; }
    /// Where the user is: in the field, or on the page that is shown.
    void press(Qt::Key key, Qt::KeyboardModifiers with)
    {
        QWidget* shown = m_window->findChild<QStackedWidget*>(QStringLiteral("pages"))->currentWidget();
        if (page() == QLatin1String("view.field") || page() == QLatin1String("plan"))
            return QTest::keyClick(field(), key, with);
        QApplication::setActiveWindow(m_window.get()); // what a window manager does
        shown->setFocus();
        QTest::keyClick(shown, key, with);
    }
    /// The window as the next session opens it.
    void reopen()
    {
        m_window->close();
        const std::shared_ptr<const Terrain> terrain = m_window->session().sharedTerrain();
        const fell::Setup setup = m_window->session().setup();
        m_window.reset();
        m_window = std::make_unique<MainWindow>(terrain, setup);
        m_window->restore(readPreferences());
        m_window->show();
        ASSERT_TRUE(QTest::qWaitForWindowExposed(m_window.get()));
    }
    QString keysOf(const char* id)
    {
        for (const QAction* action : m_window->actions())
            if (action->objectName() == QLatin1String(id))
                return action->shortcut().toString();
        return QStringLiteral("no such action");
    }
};

TEST_F(DesktopWindowTest, ControlAndADigitShowThePages)
{
    const std::pair<Qt::Key, const char*> pages[]{{Qt::Key_2, "view.transect"}, {Qt::Key_4, "view.recipe"},
        {Qt::Key_5, "view.blocks"}, {Qt::Key_3, "plan"}, {Qt::Key_1, "view.field"}};
    for (const auto& [key, id] : pages) {
        press(key, Qt::ControlModifier);
        EXPECT_TRUE(becomes([&] { return page() == QLatin1String(id); })) << id << ", but " << page().toStdString();
    }
}

TEST_F(DesktopWindowTest, TheNextSessionOpensAsThisOneWasLeft)
{
    EXPECT_FALSE(QFile::exists(preferencesFile())) << "a window that was not asked to remembers nothing";
    m_window->restore({});
    press(Qt::Key_D, Qt::ControlModifier);
    EXPECT_TRUE(becomes([] { return currentTheme().dark; }));
    m_window->bench().openStage("cull");
    m_window->resize(1264, 700);
    press(Qt::Key_2, Qt::ControlModifier);
    EXPECT_TRUE(becomes([&] { return page() == "view.transect"; }));
    reopen();
    EXPECT_EQ(page(), "view.transect");
    EXPECT_TRUE(child<QWidget>("values")->isVisible()) << "its controls can be seen";
    EXPECT_EQ(m_window->bench().stage(), "cull");
    EXPECT_TRUE(becomes([&] { return m_window->size() == QSize(1264, 700); }));
    EXPECT_EQ(readPreferences().theme, "slate");
    m_window->setDark(false);
    QFile::remove(preferencesFile());
}

TEST_F(DesktopWindowTest, TheRenderDistanceIsFoundOnceForADriver)
{
    m_window->restore({});
    m_window->session().setups().change(findSetup("valley", demoFolder() / "setups").take());
    m_window->fitDistance();
    ASSERT_TRUE(becomes([&] { return m_window->isFindingDistance(); })) << "a driver that was never measured";
    ASSERT_TRUE(becomes([&] { return !m_window->isFindingDistance(); }));
    const double found = m_window->session().setup().stream.metres;
    EXPECT_GE(found, DistanceFinder::kFirst);
    EXPECT_EQ(m_window->session().setup().draw.budget, field()->driver().contains("software") ? 50 : 16.6);
    EXPECT_TRUE(m_window->banner().text().contains(QStringLiteral("%1 m").arg(found)))
        << m_window->banner().text().toStdString();
    const bool isOver = m_window->banner().text().contains("Even ");
    EXPECT_EQ(m_window->preferences().distances.contains(field()->driver()), !isOver)
        << "a busy machine is not remembered";
    // The next session takes what was found without measuring.
    Preferences kept = m_window->preferences();
    kept.distances[field()->driver()] = 96;
    m_window->restore(kept);
    m_window->fitDistance();
    EXPECT_TRUE(becomes([&] { return m_window->session().setup().stream.metres == 96; }));
    EXPECT_FALSE(m_window->isFindingDistance());
    // A user who changes the setup meanwhile ends the search.
    trigger("measure.distance");
    EXPECT_TRUE(becomes([&] { return m_window->isFindingDistance(); }));
    m_window->session().edited().set("stream.metres", 100);
    EXPECT_TRUE(becomes([&] { return !m_window->isFindingDistance(); }));
    EXPECT_EQ(m_window->session().setup().stream.metres, 100);
}

TEST_F(DesktopWindowTest, WorldsThatWereOpenedAreInTheRecentMenu)
{
    const test::TempFolder folder;
    const QString file = QString::fromStdString((folder / "dale.fell").string());
    auto* menu = child<QMenu>("recentMenu");
    emit menu->aboutToShow();
    ASSERT_EQ(menu->actions().size(), 1);
    EXPECT_FALSE(menu->actions()[0]->isEnabled());
    m_window->session().keeper.saveAs(file, headerOf(m_window->session().terrain()));
    EXPECT_TRUE(becomes([&] { return m_window->session().keeper.hasFile(); }));
    EXPECT_TRUE(becomes([&] { return m_window->preferences().recentWorlds == QStringList{file}; }));
    m_window->world().open(QStringLiteral("level"));
    waitUntilThere();
    emit menu->aboutToShow();
    ASSERT_EQ(menu->actions().size(), 1);
    EXPECT_EQ(menu->actions()[0]->text(), "dale.fell");
    menu->actions()[0]->trigger();
    EXPECT_TRUE(becomes([&] { return m_window->windowTitle() == "Corrowdale[*] — Fell"; }));
}

TEST_F(DesktopWindowTest, KeysAreChangedByTypingThemAndKeysOfOthersAreRefused)
{
    QString refused, after;
    inDialog([&](QWidget* dialog) {
        auto* table = dialog->findChild<QTableView*>("keysTable");
        QTest::keyClicks(dialog->findChild<QLineEdit*>("keysSearch"), "Wireframe");
        const auto type = [&](Qt::Key key, Qt::KeyboardModifiers with) {
            const QModelIndex at = table->model()->index(0, 1);
            const QPoint middle = table->visualRect(at).center();
            QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, middle);
            QTest::mouseDClick(table->viewport(), Qt::LeftButton, {}, middle);
            auto* edit = table->findChild<QKeySequenceEdit*>();
            ASSERT_TRUE(edit) << "an editor opens in the cell";
            QTest::keyClick(edit, key, with);
            EXPECT_TRUE(becomes([&] { return table->findChild<QKeySequenceEdit*>() == nullptr; }));
        };
        EXPECT_EQ(table->model()->rowCount(), 1);
        type(Qt::Key_K, Qt::ControlModifier);
        refused = dialog->findChild<QLabel*>("keysSays")->text();
        after = table->model()->index(0, 1).data().toString();
        type(Qt::Key_W, Qt::ControlModifier | Qt::AltModifier);
        qobject_cast<QDialog*>(dialog)->reject();
    });
    trigger("help.keys");
    EXPECT_TRUE(refused.contains("Find an action")) << refused.toStdString();
    EXPECT_EQ(after, "F5") << "as before";
    EXPECT_EQ(keysOf("view.wireframe"), "Ctrl+Alt+W");
    QTest::keyClick(field(), Qt::Key_W, Qt::ControlModifier | Qt::AltModifier);
    EXPECT_TRUE(becomes([&] { return m_window->session().look->wireframe; })) << "the new keys work in the field";
    m_window->restore({});
    reopen();
    EXPECT_EQ(keysOf("view.wireframe"), "Ctrl+Alt+W") << "the next session has them too";
    QFile::remove(preferencesFile());
}

TEST_F(DesktopWindowTest, TheDocumentsOpenAndTheWayToAHoleIsTwoClicks)
{
    press(Qt::Key_F1, {});
    DocumentsDialog* dialog = nullptr;
    ASSERT_TRUE(becomes([&] {
        dialog = m_window->findChild<DocumentsDialog*>();
        return dialog && dialog->isVisible();
    }));
    DocumentPages& pages = dialog->pages();
    EXPECT_TRUE(pages.toPlainText().contains("Find a missing chunk"));
    // A click on the link, where it is on the screen.
    QTextCursor link = pages.document()->find("Find a missing chunk");
    ASSERT_FALSE(link.isNull());
    pages.setTextCursor(link);
    pages.ensureCursorVisible();
    QTextCursor middle = link;
    middle.setPosition((link.selectionStart() + link.selectionEnd()) / 2);
    QTest::mouseClick(pages.viewport(), Qt::LeftButton, {}, pages.cursorRect(middle).center());
    EXPECT_TRUE(becomes([&] { return pages.source().path().endsWith("howto/find-a-missing-chunk.md"); }));
    EXPECT_TRUE(pages.toPlainText().contains("Goal: find out why a part of the world is not drawn"));
    dialog->findChild<QPushButton*>("documentsBack")->click();
    EXPECT_TRUE(becomes([&] { return pages.source().path().endsWith("index.md"); }));
}

TEST_F(DesktopWindowTest, OneFliesChangesTheMesherRunsATransectAndSavesItWithoutAPointer)
{
    const test::TempFolder folder;
    m_window->ledger().openElsewhere(folder.path() / "ledger.db");
    const QString file = QString::fromStdString((folder / "by-keys.csv").string());
    // Of the window: without a window manager it is not the active one.
    const auto focused = [&] { return m_window->focusWidget(); };
    const auto focus = [&] { return focused() ? focused()->objectName() : QString(); };
    const auto tabTo = [&](const QString& name) {
        for (int i = 0; i < 60 && focus() != name; ++i)
            QTest::keyClick(focused(), Qt::Key_Tab);
        EXPECT_EQ(focus(), name);
        return focused();
    };
    const auto type = [&](QWidget* into, const QString& text) {
        QTest::keyClick(into, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(into, text);
    };
    const Eye before = m_window->session().eye;
    QTest::keyPress(field(), Qt::Key_W);
    EXPECT_TRUE(becomes([&] { return m_window->session().eye.cell != before.cell; })) << "it flies";
    QTest::keyRelease(field(), Qt::Key_W);
    press(Qt::Key_E, Qt::ControlModifier);
    QApplication::setActiveWindow(m_window.get());
    ASSERT_TRUE(becomes([&] { return focus() == "mesh.mesher=greedy-bits"; })) << focus().toStdString();
    QTest::keyClick(focused(), Qt::Key_Up);
    EXPECT_TRUE(becomes([&] { return m_window->session().setup().mesh.mesher == "greedy"; }));
    QTest::keyClick(focused(), Qt::Key_2, Qt::ControlModifier);
    ASSERT_TRUE(becomes([&] { return page() == "view.transect"; }));
    m_window->findChild<QStackedWidget*>(QStringLiteral("pages"))->currentWidget()->setFocus(); // as a page has it
    type(tabTo("values"), "1");
    type(tabTo("rounds"), "1");
    type(tabTo("frames"), "2");
    QTest::keyClick(focused(), Qt::Key_Return, Qt::ControlModifier);
    EXPECT_TRUE(becomes([&] { return m_window->runner().isRunning(); }));
    ASSERT_TRUE(becomes([&] { return !m_window->runner().isRunning(); }));
    ASSERT_EQ(m_window->runner().result().rows.size(), 1u);
    // The finder knows every action; the file's name is typed.
    inDialog([&](QWidget* finder) {
        auto* asked = finder->findChild<QLineEdit*>();
        QTest::keyClicks(asked, "Save result");
        inDialog([&](QWidget* files) {
            if (auto* name = files->findChild<QLineEdit*>(QStringLiteral("fileNameEdit"))) {
                type(name, file);
                QTest::keyClick(name, Qt::Key_Return);
                auto* again = new QTimer(files); // the first may only have closed a list of completions
                QObject::connect(again, &QTimer::timeout, files, [name] { QTest::keyClick(name, Qt::Key_Return); });
                again->start(300);
            } else {
                ADD_FAILURE() << files->metaObject()->className();
                files->close();
            }
        });
        QTest::keyClick(asked, Qt::Key_Return);
    });
    press(Qt::Key_K, Qt::ControlModifier);
    EXPECT_TRUE(becomes([&] { return QFile::exists(file); }));
    const auto saved = parseResultCsv(test::textOf(folder / "by-keys.csv"), "by-keys.csv");
    ASSERT_TRUE(saved);
    EXPECT_EQ(saved.value().rows[0].setup, "near");
}

TEST_F(DesktopWindowTest, AboutNamesTheVersionAndTheDriver)
{
    QString text, more;
    inDialog([&](QWidget* dialog) {
        text = qobject_cast<QMessageBox*>(dialog)->text();
        more = qobject_cast<QMessageBox*>(dialog)->informativeText();
        dialog->close();
    });
    trigger("help.about");
    EXPECT_EQ(text.toStdString(), versionLine("Fell"));
    EXPECT_TRUE(more.contains(field()->driver())) << more.toStdString();
    EXPECT_FALSE(field()->driver().isEmpty());
}

TEST_F(DesktopWindowTest, FlightKeysAreTheirPlacesOnTheKeyboard)
{
    const auto press = [this](Qt::Key key, quint32 code, bool down) {
        QKeyEvent event(down ? QEvent::KeyPress : QEvent::KeyRelease, key, {}, code, 0, 0);
        QApplication::sendEvent(field(), &event);
    };
    const FlightKeys& keys = m_window->session().flight.keys;
    press(Qt::Key_Z, 25, true); // a French keyboard has Z where W is in English
    EXPECT_TRUE(keys.forward);
    press(Qt::Key_Z, 25, false);
    EXPECT_FALSE(keys.any());
    press(Qt::Key_W, 52, true); // and W where Z is
    EXPECT_FALSE(keys.any());
    press(Qt::Key_W, 52, false);
    press(Qt::Key_W, 0, true); // the place is not told
    EXPECT_TRUE(keys.forward);
    press(Qt::Key_W, 0, false);
    press(Qt::Key_Up, 111, true);
    EXPECT_TRUE(keys.forward);
    press(Qt::Key_Up, 111, false);
    EXPECT_FALSE(keys.any());
}

} // namespace
} // namespace fell::desktop_window_test
