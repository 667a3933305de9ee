// SPDX-License-Identifier: GPL-3.0-or-later
// Drives a real window as its user does: by the object names of its controls and actions, with key and mouse events.
#pragma once

#include <fell/app/views/main_window.h>

#include <QDir>
#include <QWidget>

#include <functional>
#include <stdexcept>

namespace fell::tour {

using namespace app;

/// What could not be done, in a sentence. A tour that ends halfway has no other cause.
class Stopped : public std::runtime_error {
    using std::runtime_error::runtime_error;
};

/// A class because every step needs the window. Each step throws Stopped where its control is not there.
class Driver {
public:
    Driver(MainWindow& window, QDir pictures);

    [[nodiscard]] MainWindow& window() { return m_window; }
    [[nodiscard]] WorldSession& session() { return m_window.session(); }

    template <typename T = QWidget> T& find(const QString& name)
    {
        if (T* found = m_window.findChild<T*>(name))
            return *found;
        throw Stopped("the window has nothing named " + name.toStdString());
    }
    void trigger(const QString& action);
    void click(const QString& button);
    void check(const QString& box, bool on);
    void tab(const QString& bar, int index);
    void slide(const QString& slider, int value);
    void number(const QString& box, int value);
    void write(const QString& line, const QString& text);
    /// Chooses an entry of a drop-down list by its text.
    void choose(const QString& list, const QString& text);
    /// Clicks the row of a list that has this key or text.
    void select(const QString& list, const QString& name);
    /// Opens a stage by a click on its plate, in the row of setup B where `ofB`.
    void stage(const QString& id, bool ofB = false);
    /// Moves the pointer over the field, to parts of its width and height from the left and the top.
    void pointAt(double x, double y);
    void clickField(double x, double y);
    void leaveField();
    /// Holds a key of the field down for so long.
    void holdKey(Qt::Key key, int ms);
    /// Puts the eye somewhere: no control of the window does that at once.
    void look(const Eye& eye) { session().eye = eye; }

    void wait(int ms);
    /// Waits until it holds, ten minutes at most.
    void until(const char* what, const std::function<bool()>& holds);
    void settle(int ms = 0); // until the field shows all there is, and `ms` more
    /// Keeps a picture of the window, as it is on the screen.
    void keep(const char* name);
    [[nodiscard]] QString file(const char* name) const { return m_pictures.filePath(QLatin1String(name)); }

private:
    FieldWindow* field() { return m_window.field().window(); } // null where the driver cannot draw
    MainWindow& m_window;
    QDir m_pictures;
};

/// Shows every view of the window and keeps pictures, a result and its plots.
void showEveryView(Driver& drive);

} // namespace fell::tour
