// SPDX-License-Identifier: GPL-3.0-or-later
// How a changed set reaches the field: the world again, its meshes again, or only its textures.
#include <fell/app/views/block_book.h>

#include <fell/app/views/cards.h>

#include <fell/app/models/text.h>

#include <QLabel>
#include <QMessageBox>
#include <QPushButton>

namespace fell::app {

void BlockBook::showInField()
{
    const auto other = withBlocks(m_session.terrain(), *m_session.changes(), m_editor.set());
    if (!other)
        return emit trouble(QString::fromStdString(sentence(other.problem())));
    if (other.value().lost > 0 && !mayLose(other.value()))
        return;
    m_shown = other.value().terrain;
    m_isMadeAnew = true;
    emit worldWanted(other.value().terrain, other.value().changes);
    sayEffect();
}

/// Voxels that were built of kinds that are gone would be open air: asks.
bool BlockBook::mayLose(const OtherBlocks& other)
{
    QStringList kinds;
    for (const std::string& name : other.gone)
        kinds << QString::fromStdString(name);
    QMessageBox box(
        QMessageBox::NoIcon, tr("Remove built voxels?"), tr("Remove built voxels?"), QMessageBox::NoButton, this);
    box.setInformativeText(tr("%1 voxels were built of %2, which is no block of this set any more. They become air.")
                               .arg(countText(other.lost), kinds.join(tr(", "))));
    box.setObjectName(QStringLiteral("lostVoxelsQuestion"));
    QAbstractButton* remove = box.addButton(tr("Remove them"), QMessageBox::DestructiveRole);
    remove->setObjectName(QStringLiteral("confirm"));
    QPushButton* keep = box.addButton(tr("Keep the world"), QMessageBox::RejectRole);
    keep->setObjectName(QStringLiteral("decline"));
    box.setDefaultButton(keep);
    box.exec();
    return box.clickedButton() == remove;
}

/// The world with the kinds as they are now; null and a sentence where it cannot be.
std::shared_ptr<const Terrain> BlockBook::withEditedBlocks()
{
    auto other = terrainWith(m_session.terrain(), m_editor.set());
    if (other)
        return other.take();
    emit trouble(QString::fromStdString(sentence(other.problem())));
    return nullptr;
}

/// Has the field take on what it can: colours and pictures with the next frame, light and shapes as soon as the hand
/// rests. Kinds that come, go, or are of another matter change the ground itself and wait until they are asked for.
void BlockBook::showSoon()
{
    const BlockSet& there = m_session.terrain().recipe.blocks;
    if (m_shown != m_session.sharedTerrain() || there.text == m_editor.set().text)
        return;
    if (differOnlyInLook(there, m_editor.set()))
        showLook();
    else if (haveSameKinds(there, m_editor.set()))
        m_kindsSoon.start(); // again, while changes go on
}

void BlockBook::showLook()
{
    auto other = withEditedBlocks();
    if (!other)
        return;
    m_shown = std::move(other);
    m_took = tr("Shown with the next frame: nothing was lit or meshed again.");
    emit lookWanted(m_shown);
    sayEffect();
}

void BlockBook::showKinds()
{
    const BlockSet& there = m_session.terrain().recipe.blocks;
    if (m_shown != m_session.sharedTerrain() || there.text == m_editor.set().text
        || !haveSameKinds(there, m_editor.set()))
        return;
    auto other = withEditedBlocks();
    if (!other)
        return;
    m_shown = std::move(other);
    m_isMadeAnew = true;
    emit kindsWanted(m_shown);
    sayEffect();
}

/// What the field would have to do for the kinds as they are now, or has done.
void BlockBook::sayEffect()
{
    const BlockSet& there = m_session.terrain().recipe.blocks;
    if (!differOnlyInLook(there, m_editor.set()))
        m_effect->setText(haveSameKinds(there, m_editor.set())
                ? tr("Shown in a moment: Fell relights and remeshes all chunks; voxels stay.")
                : tr("Not shown yet: Fell must regenerate, relight and remesh every chunk."));
    else if (m_isMadeAnew)
        m_effect->setText(tr("The field shows it as soon as you open it (Ctrl+1)."));
    else
        m_effect->setText(m_took);
    m_effect->setVisible(!m_effect->text().isEmpty());
}

} // namespace fell::app
