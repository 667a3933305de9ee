// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/dialogs.h>

#include <fell/app/views/export_dialog.h>
#include <fell/app/views/import_dialog.h>

#include <QFileDialog>
#include <QInputDialog>
#include <QMessageBox>
#include <QPushButton>

#include <cassert>

namespace fell::app {

bool Dialogs::confirms(
    const QString& name, const QString& title, const QString& text, const QString& yes, const QString& no)
{
    return choose({name, title, title, text,
               {{QStringLiteral("confirm"), yes, Question::Role::Destroy},
                   {QStringLiteral("decline"), no, Question::Role::Reject}}})
        == 0;
}

QString WindowDialogs::openFile(const QString& title, const QString& folder, const QString& filter)
{
    return QFileDialog::getOpenFileName(m_window, title, folder, filter);
}

QString WindowDialogs::saveFile(const QString& title, const QString& suggested, const QString& filter, bool confirms)
{
    return QFileDialog::getSaveFileName(m_window, title, suggested, filter, nullptr,
        confirms ? QFileDialog::Options() : QFileDialog::DontConfirmOverwrite);
}

QString WindowDialogs::line(const QString& title, const QString& label, const QString& suggested)
{
    bool isGiven = false;
    const QString text = QInputDialog::getText(m_window, title, label, QLineEdit::Normal, suggested, &isGiven);
    return isGiven ? text.trimmed() : QString();
}

std::size_t WindowDialogs::choose(const Question& question)
{
    assert(!question.answers.empty());
    QMessageBox box(QMessageBox::NoIcon, question.title, question.text, QMessageBox::NoButton, m_window);
    box.setInformativeText(question.details);
    box.setObjectName(question.name);
    std::vector<QPushButton*> buttons;
    for (const Question::Answer& answer : question.answers) {
        const auto role = answer.role == Question::Role::Accept ? QMessageBox::AcceptRole
            : answer.role == Question::Role::Destroy            ? QMessageBox::DestructiveRole
                                                                : QMessageBox::RejectRole;
        buttons.push_back(box.addButton(answer.text, role));
        buttons.back()->setObjectName(answer.name);
    }
    box.setDefaultButton(buttons.back());
    box.exec();
    for (std::size_t i = 0; i < buttons.size(); ++i)
        if (box.clickedButton() == buttons[i])
            return i;
    return buttons.size() - 1;
}

std::optional<ImportSpec> WindowDialogs::importOf(const QString& file, const Recipe& like)
{
    ImportDialog dialog(file, like, m_window);
    if (dialog.exec() != QDialog::Accepted)
        return std::nullopt;
    return dialog.spec();
}

std::optional<ExportChoice> WindowDialogs::exportOf(
    VoxelPos middle, const Recipe& recipe, const QString& mesher, const std::function<void(const VoxelBox&)>& shown)
{
    ExportDialog dialog(middle, recipe, mesher, m_window);
    shown(dialog.box());
    QObject::connect(&dialog, &ExportDialog::boxChanged, &dialog, shown);
    constexpr QPoint kBesideTheBox{12, 176}; // the middle of the picture is where the box is
    dialog.move(m_window->mapToGlobal(kBesideTheBox));
    if (dialog.exec() != QDialog::Accepted)
        return std::nullopt;
    return ExportChoice{dialog.box(), dialog.format(), dialog.file()};
}

} // namespace fell::app
