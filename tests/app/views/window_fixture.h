// SPDX-License-Identifier: GPL-3.0-or-later
// The real window for tests: opened on Corrowdale, waited for, and looked at.
#pragma once

#include "support/all_names.h"
#include "support/temp_folder.h"
#include <fell/app/models/row_list.h>
#include <fell/app/views/banner.h>
#include <fell/app/views/main_window.h>
#include <fell/app/views/theme.h>
#include <fell/app/views/transect_plots.h>

#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QMessageBox>
#include <QPushButton>
#include <QRadioButton>
#include <QScreen>
#include <QSlider>
#include <QSpinBox>
#include <QTabBar>
#include <QTableView>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <set>

namespace fell {

constexpr int kPatienceMs = 150000;

/// Presses a button of a dialog by its object name; false without it.
inline bool press(QWidget* dialog, const char* name)
{
    auto* button = dialog->findChild<QPushButton*>(QString::fromUtf8(name));
    if (button)
        button->click();
    return button != nullptr;
}

class WindowTest : public ::testing::Test {
protected:
    void SetUp() override
    {
        fell::Setup setup = findSetup("near", demoFolder() / "setups").take();
        setup.stream.distance = 2;
        m_window = std::make_unique<MainWindow>(makeTerrain(findWorld("corrowdale", demoFolder()).take()), setup);
        m_window->show();
        ASSERT_TRUE(QTest::qWaitForWindowExposed(m_window.get()));
        waitUntilThere();
    }

    FieldWindow* field() { return m_window->field().window(); }

    void waitUntilThere()
    {
        ASSERT_TRUE(QTest::qWaitFor(
            [&] {
                return m_window->session().streamer() && field() && field()->isUpToDate()
                    && field()->lastFrame().triangles > 0;
            },
            kPatienceMs))
            << m_window->field().trouble().toStdString();
        QTest::qWait(400); // one refresh of the figures
    }

    template <typename T> T* child(const char* name)
    {
        T* found = m_window->findChild<T*>(QLatin1String(name));
        EXPECT_NE(found, nullptr) << name;
        return found;
    }

    /// What a row of a list says: its name, and the line below it.
    static QString rowText(const QListView& list, int row)
    {
        const QModelIndex at = list.model()->index(row, 0);
        return at.data().toString() + QLatin1Char('\n') + at.data(RowList::Detail).toString();
    }
    static void clickRow(QListView& list, int row)
    {
        const QModelIndex at = list.model()->index(row, 0);
        list.scrollTo(at);
        QTest::mouseClick(list.viewport(), Qt::LeftButton, {}, list.visualRect(at).center());
    }

    void trigger(const QString& name)
    {
        for (QAction* action : m_window->actions())
            if (action->objectName() == name) {
                action->trigger();
                return;
            }
        FAIL() << "no action " << name.toStdString();
    }

    /// True once it holds: how long that takes is the machine's affair.
    static bool becomes(const std::function<bool()>& holds) { return QTest::qWaitFor(holds, kPatienceMs); }

    /// Calls it with the dialog that the next step opens, once it is visible.
    void inDialog(std::function<void(QWidget*)> act)
    {
        auto* timer = new QTimer(m_window.get());
        QObject::connect(timer, &QTimer::timeout, timer, [timer, act = std::move(act)] {
            QWidget* dialog = QApplication::activeModalWidget();
            if (!dialog || !dialog->isVisible())
                return;
            timer->deleteLater();
            timer->stop();
            act(dialog);
        });
        timer->start(50);
    }

    /// The pixels of the screen where the field is.
    QImage fieldPicture()
    {
        const QPixmap all = QGuiApplication::primaryScreen()->grabWindow(m_window->winId());
        const QPoint corner = m_window->field().mapTo(m_window.get(), QPoint(0, 0));
        return all.copy(QRect(corner, m_window->field().size())).toImage();
    }

    static int coloursOf(const QImage& image)
    {
        std::set<QRgb> colours;
        for (int y = 0; y < image.height(); y += 5)
            for (int x = 0; x < image.width(); x += 5)
                colours.insert(image.pixel(x, y));
        return static_cast<int>(colours.size());
    }

    std::unique_ptr<MainWindow> m_window;
};

} // namespace fell
