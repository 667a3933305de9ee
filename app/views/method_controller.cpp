// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/method_controller.h>

#include <fell/app/views/dialogs.h>

#include <QFileInfo>

namespace fell::app {
namespace {

QString saidOf(const std::vector<std::string>& sentences)
{
    QString out;
    for (const std::string& one : sentences)
        out += QStringLiteral("; ") + QString::fromStdString(one);
    return out;
}

} // namespace

MethodController::MethodController(WorldSession& session, Dialogs& dialogs)
    : m_session(session)
    , m_dialogs(dialogs)
{
    connect(&m_loader, &MethodLoader::loaded, this, &MethodController::use);
    connect(&m_loader, &MethodLoader::refused, this, &MethodController::trouble);
    connect(&m_loader, &BackgroundTask::broke, this, &MethodController::trouble);
}

void MethodController::askLoad()
{
    const QString file = m_dialogs.openFile(tr("Load method"), {}, tr("Shared library (*.so *.so.*)"));
    if (!file.isEmpty())
        load(file);
}

void MethodController::load(const QString& file)
{
    emit note(tr("Checking %1 in a separate process").arg(QFileInfo(file).fileName()));
    m_loader.load(file);
}

/// `before`: the last build of the same file, or nothing.
void MethodController::use(const QString& id, const QString& before)
{
    const Mesher* mesher = findMesher(id.toStdString());
    emit listChanged();
    if (before.isEmpty()) {
        Setup next = m_session.edited().current();
        const QString said = saidOf(useMesher(next, *mesher));
        m_session.edited().change(next);
        if (m_session.edited().current().mesh.mesher == mesher->id)
            emit note(tr("%1 passed its check and is the mesher of setup %2%3")
                          .arg(id, m_session.editsB() ? tr("B") : tr("A"), said));
    } else if (m_keepsOld) {
        compare(*mesher);
    } else {
        const auto follow = [&](SetupHistory& setups) {
            Setup next = setups.current();
            if (next.mesh.mesher != before.toStdString())
                return;
            useMesher(next, *mesher);
            setups.change(next);
        };
        follow(m_session.setups());
        if (m_session.hasB())
            follow(m_session.setupsB());
        emit note(tr("New build %1 passed its check and takes the place of %2").arg(id, before));
    }
}

void MethodController::compare(const Mesher& mesher)
{
    if (m_session.hasB()) {
        Setup next = m_session.setupB();
        useMesher(next, mesher);
        m_session.setupsB().change(next);
    } else {
        Setup next = m_session.setup();
        useMesher(next, mesher);
        next.name = mesher.id;
        m_session.compareWith(next);
        emit besideChanged();
    }
    emit note(tr("Setup B has the new build %1, A keeps %2")
                  .arg(QString::fromLatin1(mesher.id), QString::fromStdString(m_session.setup().mesh.mesher)));
}

} // namespace fell::app

#include "moc_method_controller.cpp"
