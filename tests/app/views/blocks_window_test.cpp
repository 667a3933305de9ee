// SPDX-License-Identifier: GPL-3.0-or-later
// The block book. The real window: real mouse and key events, then what the user would see.
#include "window_fixture.h"
#include <fell/app/models/text.h>

#include "support/all_names.h"
#include "support/sample_setups.h"

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace fell::blocks_window_test {
namespace {

class BlockWindowTest : public WindowTest { };

TEST_F(BlockWindowTest, TheBlockBookChangesAKindAndTheFieldShowsIt)
{
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    auto* list = child<QListView>("blockList");
    ASSERT_TRUE(becomes([&] { return list->model()->rowCount() > 10 && rowText(*list, 0).contains("voxels here"); }))
        << rowText(*list, 0).toStdString();
    // Water is there: the tarn lies below.
    int water = 0;
    const int rows = list->model()->rowCount();
    while (water < rows && !rowText(*list, water).startsWith("water\n"))
        ++water;
    ASSERT_LT(water, rows);
    clickRow(*list, water);
    EXPECT_TRUE(child<QLabel>("blockName")->text().contains("water"));
    const QImage before = child<QWidget>("blockCube")->grab().toImage();
    child<QSlider>("blockSun")->setValue(-10);
    EXPECT_NE(child<QWidget>("blockCube")->grab().toImage(), before) << "it is night over it";
    auto* emission = child<QSpinBox>("block-gives-2");
    emission->setFocus();
    for (int i = 0; i < 9; ++i)
        QTest::keyClick(emission, Qt::Key_Up);
    BlockEditor& editor = m_window->blocks().editor();
    EXPECT_EQ(editor.set().kinds[m_window->blocks().selected()].light.emission[2], 9);
    EXPECT_TRUE(editor.isChanged());
    const std::uint64_t epoch = m_window->session().epoch();
    QTest::mouseClick(child<QPushButton>("blockApply"), Qt::LeftButton);
    EXPECT_GT(m_window->session().epoch(), epoch);
    const auto& kinds = m_window->session().terrain().recipe.blocks.kinds;
    EXPECT_EQ(kinds[*findMaterial(m_window->session().terrain().recipe.blocks, "water")].light.emission[2], 9);
    EXPECT_TRUE(editor.canUndo()) << "its history stays";
    trigger("undo"); // Ctrl+Z
    EXPECT_EQ(kinds.size(), editor.set().kinds.size());
    EXPECT_NE(editor.set().kinds[m_window->blocks().selected()].light.emission[2], 9);
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    waitUntilThere();
}

/// "slate" had the counts of "slate-slope-90" too.
TEST_F(BlockWindowTest, ABlockTypeIsCountedWithItsOwnTurnsAndWithNoOther)
{
    waitUntilThere();
    WorldSession& session = m_window->session();
    const auto& kinds = session.terrain().recipe.blocks.kinds;
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    auto* list = child<QListView>("blockList");
    ASSERT_TRUE(becomes([&] { return list->model()->rowCount() > 10 && rowText(*list, 0).contains("voxels here"); }));
    const auto residents = session.streamer()->residents();
    ASSERT_TRUE(residents);
    std::map<std::string, std::uint64_t> own;
    for (const auto& [chunk, voxels] : *residents)
        for (const Material m : voxels->voxels()) {
            const std::string& name = kinds[m].name;
            ++own[kinds[m].turn == 0
                    ? name
                    : name.substr(0, name.size() - std::string("-90").size() - (kinds[m].turn == 1 ? 0 : 1))];
        }
    int counted = 0;
    for (int i = 0; i < list->model()->rowCount(); ++i) {
        const QString name = rowText(*list, i).section('\n', 0, 0);
        const std::uint64_t count = own[name.toStdString()];
        counted += count > 0;
        EXPECT_TRUE(rowText(*list, i).contains(
            count > 0 ? QStringLiteral("· %1 voxels here").arg(countText(count)) : QStringLiteral("none here")))
            << rowText(*list, i).toStdString() << " should be " << count;
    }
    EXPECT_GT(counted, 5);
}

TEST_F(BlockWindowTest, AKindThatGoesTakesBuiltVoxelsAlongOnlyWhereThatIsConfirmed)
{
    waitUntilThere();
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    BlockEditor& editor = m_window->blocks().editor();
    ASSERT_FALSE(editor.addLike(*findMaterial(editor.set(), "slate"), "slate-2").has_value());
    QTest::mouseClick(child<QPushButton>("blockApply"), Qt::LeftButton);
    WorldSession& session = m_window->session();
    const auto kind = findMaterial(session.terrain().recipe.blocks, "slate-2");
    ASSERT_TRUE(kind);
    const VoxelChange built[]{{{0, 90, 0}, kOpen, *kind}};
    session.changes()->set(built);
    QTest::mouseClick(child<QPushButton>("blockUndo"), Qt::LeftButton);
    const std::uint64_t epoch = session.epoch();
    const auto answer = [this](const char* button) {
        inDialog([button](QWidget* dialog) {
            ASSERT_EQ(dialog->objectName(), "lostVoxelsQuestion");
            QTest::mouseClick(dialog->findChild<QPushButton*>(button), Qt::LeftButton);
        });
    };
    answer("decline");
    QTest::mouseClick(child<QPushButton>("blockApply"), Qt::LeftButton);
    EXPECT_EQ(session.epoch(), epoch);
    EXPECT_TRUE(findMaterial(session.terrain().recipe.blocks, "slate-2"));
    answer("confirm");
    QTest::mouseClick(child<QPushButton>("blockApply"), Qt::LeftButton);
    EXPECT_NE(session.epoch(), epoch);
    EXPECT_FALSE(findMaterial(session.terrain().recipe.blocks, "slate-2"));
}

TEST_F(BlockWindowTest, AColourOfTheBlockBookIsInTheNextPictureAndNothingIsMeshedForIt)
{
    waitUntilThere();
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    BlockEditor& editor = m_window->blocks().editor();
    const std::uint64_t epoch = m_window->session().epoch(), meshed = m_window->session().streamer()->counts().meshed;
    for (const char* kind : {"turf", "meadow", "bracken", "slate", "heather"})
        for (const char* side : {"/top", "/side", "/textures"})
            ASSERT_FALSE(editor.change(*findMaterial(editor.set(), kind), side,
                side[1] == 't' && side[2] == 'e' ? nlohmann::json() : nlohmann::json("#FF00FF")));
    auto* effect = child<QLabel>("blockEffect");
    ASSERT_TRUE(becomes([&] { return effect->text().contains("nothing was lit or meshed"); }))
        << effect->text().toStdString();
    EXPECT_TRUE(effect->isVisible());
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    const auto purple = [&] {
        const QImage image = fieldPicture();
        int count = 0;
        for (int y = 0; y < image.height(); y += 4)
            for (int x = 0; x < image.width(); x += 4) {
                const QColor colour(image.pixel(x, y));
                count += colour.red() > 2 * colour.green() && colour.blue() > 2 * colour.green();
            }
        return count;
    };
    EXPECT_TRUE(becomes([&] { return purple() > 200; })) << purple();
    EXPECT_EQ(m_window->session().epoch(), epoch) << "the same world";
    EXPECT_EQ(m_window->session().streamer()->counts().meshed, meshed);

    // Light changes no voxel: the field keeps its voxels and shows what the light took.
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    ASSERT_FALSE(editor.change(*findMaterial(editor.set(), "turf"), "/light/gives", {15, 0, 0}));
    ASSERT_TRUE(becomes([&] { return m_window->session().epoch() > epoch; }));
    EXPECT_TRUE(effect->text().contains("as soon as you open it")) << effect->text().toStdString();
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    ASSERT_TRUE(becomes([&] { return effect->text().contains("kept their voxels"); })) << effect->text().toStdString();
    const StreamCounts counts = m_window->session().streamer()->counts();
    EXPECT_GT(counts.known * 10, counts.generated * 9) << "nearly all of them";
    EXPECT_TRUE(effect->text().contains(QStringLiteral("%1 remeshed").arg(countText(counts.meshed))))
        << effect->text().toStdString() << " of " << counts.meshed;

    // Another matter changes the ground: the field waits until it is asked for.
    QTest::mouseClick(child<QToolButton>("showBlocks"), Qt::LeftButton);
    const std::uint64_t lit = m_window->session().epoch();
    ASSERT_FALSE(editor.change(*findMaterial(editor.set(), "turf"), "/matter", "see-through"));
    EXPECT_TRUE(effect->text().contains("Not shown yet")) << effect->text().toStdString();
    QTest::qWait(600);
    EXPECT_EQ(m_window->session().epoch(), lit);
    QTest::mouseClick(child<QPushButton>("blockApply"), Qt::LeftButton);
    EXPECT_GT(m_window->session().epoch(), lit);
    QTest::mouseClick(child<QToolButton>("showField"), Qt::LeftButton);
    ASSERT_TRUE(becomes([&] { return effect->text().contains(", 0 kept their voxels"); }))
        << effect->text().toStdString();
}

} // namespace
} // namespace fell::blocks_window_test
