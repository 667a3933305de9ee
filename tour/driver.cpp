// SPDX-License-Identifier: GPL-3.0-or-later
#include "driver.h"

#include <fell/app/models/row_list.h>
#include <fell/app/views/field_window.h>
#include <fell/app/views/stage_rail.h>
#include <fell/setup/stages.h>

#include <QAbstractButton>
#include <QAction>
#include <QComboBox>
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QGuiApplication>
#include <QKeyEvent>
#include <QLineEdit>
#include <QListView>
#include <QMouseEvent>
#include <QScreen>
#include <QSlider>
#include <QSpinBox>
#include <QTabBar>
#include <QTimer>

#include <algorithm>

namespace fell::tour {
namespace {

void send(QObject& to, QEvent::Type kind, const QPointF& at, const QPointF& onScreen, bool pressed)
{
    const Qt::MouseButton button = kind == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton;
    QMouseEvent event(kind, at, onScreen, button, pressed ? Qt::LeftButton : Qt::NoButton, {});
    QCoreApplication::sendEvent(&to, &event);
}

} // namespace

Driver::Driver(MainWindow& window, QDir pictures)
    : m_window(window)
    , m_pictures(std::move(pictures))
{
}

void Driver::trigger(const QString& action)
{
    for (QAction* one : m_window.actions())
        if (one->objectName() == action) {
            one->trigger();
            return;
        }
    throw Stopped("the window has no action " + action.toStdString());
}

void Driver::click(const QString& button)
{
    find<QAbstractButton>(button).click();
}

void Driver::check(const QString& box, bool on)
{
    if (auto& button = find<QAbstractButton>(box); button.isChecked() != on)
        button.click();
}

void Driver::tab(const QString& bar, int index)
{
    find<QTabBar>(bar).setCurrentIndex(index);
    wait(50); // until the page of the tab is laid out
}

void Driver::slide(const QString& slider, int value)
{
    find<QSlider>(slider).setValue(value);
}

void Driver::number(const QString& box, int value)
{
    find<QSpinBox>(box).setValue(value);
}

void Driver::write(const QString& line, const QString& text)
{
    auto& edit = find<QLineEdit>(line);
    edit.selectAll();
    edit.insert(text); // as typing does: it is undone and validated
    emit edit.editingFinished();
}

void Driver::choose(const QString& list, const QString& text)
{
    auto& combo = find<QComboBox>(list);
    const int row = combo.findText(text);
    if (row < 0)
        throw Stopped((list + " does not offer " + text).toStdString());
    combo.setCurrentIndex(row);
    emit combo.activated(row);
    emit combo.textActivated(text);
}

void Driver::select(const QString& list, const QString& name)
{
    auto& view = find<QListView>(list);
    for (int row = 0; row < view.model()->rowCount(); ++row)
        if (const QModelIndex at = view.model()->index(row, 0); at.data(RowList::Key) == name || at.data() == name) {
            view.setCurrentIndex(at);
            emit view.clicked(at);
            return;
        }
    throw Stopped((list + " has no row " + name).toStdString());
}

void Driver::stage(const QString& id, bool ofB)
{
    const auto& all = setup::stages();
    const auto found
        = std::find_if(all.begin(), all.end(), [&](const setup::Stage& one) { return id == one.id.c_str(); });
    if (found == all.end())
        throw Stopped("there is no stage " + id.toStdString());
    StageRail& rail = m_window.rail();
    const RailLayout plates = rail.plates();
    const int place = static_cast<int>(found - all.begin());
    const QPointF at = (ofB ? plates.plateOfB(place) : plates.plate(place)).center();
    send(rail, QEvent::MouseButtonPress, at, rail.mapToGlobal(at), true);
    send(rail, QEvent::MouseButtonRelease, at, rail.mapToGlobal(at), false);
}

void Driver::pointAt(double x, double y)
{
    FieldWindow* to = field();
    if (!to)
        return;
    const QPointF at(x * to->width(), y * to->height());
    for (const double step : {-2.0, 0.0})
        send(*to, QEvent::MouseMove, at + QPointF(step, 0), to->mapToGlobal(at), false);
}

void Driver::clickField(double x, double y)
{
    FieldWindow* to = field();
    if (!to)
        return;
    const QPointF at(x * to->width(), y * to->height());
    send(*to, QEvent::MouseButtonPress, at, to->mapToGlobal(at), true);
    send(*to, QEvent::MouseButtonRelease, at, to->mapToGlobal(at), false);
}

void Driver::leaveField()
{
    if (FieldWindow* from = field()) {
        QEvent leave(QEvent::Leave);
        QCoreApplication::sendEvent(from, &leave);
    }
}

void Driver::holdKey(Qt::Key key, int ms)
{
    FieldWindow* to = field();
    if (!to)
        return;
    QKeyEvent press(QEvent::KeyPress, key, {}), release(QEvent::KeyRelease, key, {});
    QCoreApplication::sendEvent(to, &press);
    wait(ms);
    QCoreApplication::sendEvent(to, &release);
}

void Driver::wait(int ms)
{
    QEventLoop loop;
    QTimer::singleShot(ms, &loop, &QEventLoop::quit);
    loop.exec();
}

void Driver::until(const char* what, const std::function<bool()>& holds)
{
    constexpr int kTickMs = 100, kPatienceMs = 600000;
    QElapsedTimer since;
    since.start();
    while (!holds()) {
        if (since.elapsed() > kPatienceMs)
            throw Stopped(std::string("after ten minutes there was still no ") + what);
        wait(kTickMs);
    }
}

void Driver::settle(int ms)
{
    until("field that shows all there is", [this] {
        const FieldWindow* shown = field();
        return !shown || shown->isUpToDate();
    });
    wait(ms);
}

void Driver::keep(const char* name)
{
    // From the screen: a widget's own grab would miss the field, which is a native window.
    const QPixmap picture = QGuiApplication::primaryScreen()->grabWindow(m_window.winId());
    if (!picture.save(file(name), "PNG"))
        throw Stopped(file(name).toStdString() + " cannot be written");
}

} // namespace fell::tour
