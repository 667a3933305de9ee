// SPDX-License-Identifier: GPL-3.0-or-later
#include "driver.h"

#include <fell/app/views/field_window.h>
#include <fell/app/views/stage_rail.h>
#include <fell/setup/stages.h>

#include <QAbstractButton>
#include <QAction>
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QGuiApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QScreen>
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

void Driver::stage(const QString& id)
{
    const auto& all = setup::stages();
    const auto found
        = std::find_if(all.begin(), all.end(), [&](const setup::Stage& one) { return id == one.id.c_str(); });
    if (found == all.end())
        throw Stopped("there is no stage " + id.toStdString());
    StageRail& rail = m_window.rail();
    const QPointF at = rail.plates().plate(static_cast<int>(found - all.begin())).center();
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
