// SPDX-License-Identifier: GPL-3.0-or-later
// The views of the window, one after the other.
#include "driver.h"

#include <fell/app/models/ledger_table.h>
#include <fell/app/models/row_list.h>
#include <fell/app/models/text.h>

#include <QListView>
#include <QTableView>

namespace fell::tour {
namespace {

/// Runs the transect that the page describes.
void walk(Driver& drive)
{
    drive.trigger(QStringLiteral("measure.walk"));
    drive.until("result of the transect", [&] { return !drive.window().runner().isRunning(); });
    auto& banner = drive.find<QWidget>(QStringLiteral("banner"));
    drive.until("trial in the ledger", [&] { return banner.isVisible(); });
    drive.wait(300);
    banner.hide();
    drive.wait(300);
}

void openWorld(Driver& drive, const QString& demo)
{
    (void)drive.session().changes()->takeUnsaved(); // no user answers the question
    drive.trigger(QStringLiteral("demo=") + demo);
}

/// A hole blasted into the bank, and a hill raised next to it; taken back afterwards.
void editing(Driver& drive)
{
    Eye eye = drive.session().eye;
    eye.pitch = -16;
    drive.look(eye);
    drive.trigger(QStringLiteral("tool=blast"));
    drive.slide(QStringLiteral("editRadius"), 6);
    drive.pointAt(0.3, 0.62);
    drive.wait(600);
    drive.clickField(0.3, 0.62);
    drive.wait(static_cast<int>(ToolHand::kFuse * 1000) + 700);
    drive.trigger(QStringLiteral("tool=raise"));
    drive.slide(QStringLiteral("editRadius"), 5);
    drive.pointAt(0.66, 0.6);
    drive.wait(500);
    drive.clickField(0.66, 0.6);
    drive.wait(500);
    drive.keep("field-edit.png");
}

void documents(Driver& drive)
{
    drive.trigger(QStringLiteral("view.recipe"));
    drive.select(QStringLiteral("recipeLayers"), QStringLiteral("/height/layers/2"));
    drive.until("cost of the layers", [&] { return drive.window().recipe().editor().costs().has_value(); });
    drive.wait(300);
    drive.keep("recipe.png");
    drive.trigger(QStringLiteral("view.blocks"));
    drive.select(QStringLiteral("blockList"), QStringLiteral("lantern-post"));
    drive.wait(900);
    drive.keep("blocks.png");
    drive.trigger(QStringLiteral("view.field"));
    drive.wait(300);
    drive.trigger(QStringLiteral("edit.undo"));
    drive.trigger(QStringLiteral("edit.put-away"));
    drive.wait(500);
    drive.trigger(QStringLiteral("edit.undo"));
}

void meshes(Driver& drive)
{
    if (const auto route = findRoute("beck-to-summit", demoFolder() / "routes"))
        drive.look(eyeOn(route.value(), 0.06, drive.session().terrain()));
    drive.holdKey(Qt::Key_W, 400);
    drive.settle(1200);
    drive.stage(QStringLiteral("mesh"));
    // The same view with two meshers: for the moving picture of the README.
    drive.trigger(QStringLiteral("view.wireframe"));
    for (const char* mesher : {"exposed", "greedy-bits"}) {
        drive.click(QStringLiteral("mesh.mesher=") + QLatin1String(mesher));
        drive.settle(3000);
        drive.keep((std::string("mesher-") + mesher + ".png").c_str());
    }
    drive.trigger(QStringLiteral("view.wireframe"));
    drive.trigger(QStringLiteral("surface=%1").arg(static_cast<int>(Paint::QuadSizes)));
    drive.trigger(QStringLiteral("view.wireframe"));
    drive.wait(1200);
    drive.keep("field-mesh.png");
    drive.trigger(QStringLiteral("view.reset"));
}

void culling(Driver& drive)
{
    drive.stage(QStringLiteral("cull"));
    drive.tab(QStringLiteral("cullTabs"), 0);
    drive.wait(800);
    // Held where it is; the eye goes back and up to look at what was rejected.
    drive.trigger(QStringLiteral("view.freeze"));
    drive.trigger(QStringLiteral("view.ghosts"));
    drive.click(QStringLiteral("cull.steps=hidden"));
    drive.click(QStringLiteral("earlier=hidden")); // before the one of the facing
    Eye eye = drive.session().eye;
    eye = moved(eye, rightOf(eye) * 90.0 - forwardOf(eye) * 110.0);
    eye = moved(eye, glm::dvec3(0, 90, 0));
    eye.yaw -= 38;
    eye.pitch = -34;
    drive.look(eye);
    drive.settle(1200);
    drive.keep("field-cull.png");
    drive.look(*drive.session().look->frozen);
    drive.trigger(QStringLiteral("view.reset"));
    drive.trigger(QStringLiteral("view.octree"));
    drive.tab(QStringLiteral("cullTabs"), 2);
    drive.settle(800);
    drive.click(QStringLiteral("measureSteps"));
    drive.until("cost of the steps", [&] { return !drive.session().stepTrial.isRunning(); });
    drive.wait(1200);
    drive.keep("field-octree.png");
    drive.trigger(QStringLiteral("view.reset"));
    drive.trigger(QStringLiteral("undo"));
    drive.tab(QStringLiteral("cullTabs"), 3);
    drive.wait(400);
    drive.click(QStringLiteral("auditCull"));
    drive.until("result of the audit", [&] { return !drive.window().bench().cullAudit().isRunning(); });
    drive.wait(600);
    // One that is seen whole, not one that fills the picture.
    auto& list = drive.find<QListView>(QStringLiteral("lostChunks"));
    const auto& lost = drive.window().bench().cullAudit().result()->lost;
    for (int row = 0; row < list.model()->rowCount(); ++row) {
        const QModelIndex at = list.model()->index(row, 0);
        if (lost[at.data(RowList::Key).toULongLong()].pixels < 4000) {
            list.setCurrentIndex(at);
            emit list.clicked(at);
            break;
        }
    }
    drive.settle(1500);
    drive.keep("field-audit.png");
    drive.trigger(QStringLiteral("view.reset"));
}

void levels(Driver& drive)
{
    drive.trigger(QStringLiteral("setup.long-view"));
    drive.stage(QStringLiteral("levels"));
    drive.look(eyeAt({{-200, 0, -212}, 128, -9}, 16, drive.session().terrain()));
    drive.settle(2500);
    drive.keep("field-horizon.png");
    drive.trigger(QStringLiteral("surface=%1").arg(static_cast<int>(Paint::Levels)));
    drive.wait(1500);
    drive.keep("field-detail.png");
    drive.trigger(QStringLiteral("plan"));
    drive.wait(1800);
    drive.keep("plan-horizon.png");
    drive.trigger(QStringLiteral("plan"));
    drive.trigger(QStringLiteral("surface=%1").arg(static_cast<int>(Paint::Textures)));
    if (const auto route = findRoute("beck-to-summit", demoFolder() / "routes"))
        drive.look(eyeOn(route.value(), 0.25, drive.session().terrain()));
    drive.click(QStringLiteral("fullDetail"));
    drive.until("difference of the pictures", [&] {
        const FieldWindow* field = drive.window().field().window();
        return !field || field->difference().has_value();
    });
    drive.wait(600);
    drive.keep("field-full-detail.png");
    drive.trigger(QStringLiteral("setup.b-none"));
    drive.trigger(QStringLiteral("setup.near"));
    drive.trigger(QStringLiteral("view.reset"));
}

void lights(Driver& drive)
{
    openWorld(drive, QStringLiteral("gallery"));
    drive.stage(QStringLiteral("light"));
    drive.click(QStringLiteral("measureLight"));
    drive.until("cost of the modes", [&] { return !drive.window().bench().lightTrial().isRunning(); });
    drive.settle(1800);
    drive.keep("field-light.png");
    drive.look(eyeAt({{24, 4, 50}, 285, -14}, -1e6, drive.session().terrain()));
    drive.trigger(QStringLiteral("surface=lamps"));
    drive.pointAt(0.45, 0.75);
    drive.wait(2200);
    drive.keep("field-levels.png");
    drive.leaveField();
    drive.trigger(QStringLiteral("view.reset"));
}

void twoSetups(Driver& drive)
{
    openWorld(drive, QStringLiteral("corrowdale"));
    drive.stage(QStringLiteral("mesh"));
    drive.settle();
    drive.trigger(QStringLiteral("setup.b-copy"));
    drive.wait(200);
    drive.stage(QStringLiteral("mesh"), true);
    drive.wait(200);
    drive.click(QStringLiteral("mesh.mesher=exposed"));
    drive.wait(200);
    drive.choose(QStringLiteral("mesh.shade"), QStringLiteral("none"));
    drive.trigger(QStringLiteral("surface=%1").arg(static_cast<int>(Paint::QuadSizes)));
    drive.wait(1500);
    drive.settle(1800);
    drive.keep("field-wipe.png");
    drive.trigger(QStringLiteral("setup.b-none"));
    drive.trigger(QStringLiteral("view.reset"));
    drive.stage(QStringLiteral("draw"));
    drive.wait(1200);
    drive.click(QStringLiteral("measurePasses"));
    drive.until("cost of the passes", [&] { return !drive.session().stepTrial.isRunning(); });
    drive.wait(1200);
    drive.keep("field-draw.png");
}

void plans(Driver& drive)
{
    drive.trigger(QStringLiteral("plan"));
    drive.wait(1200);
    drive.check(QStringLiteral("planNumbers"), true);
    drive.slide(QStringLiteral("distance"), 8);
    drive.wait(250);
    drive.keep("plan.png"); // while it fills
    drive.choose(QStringLiteral("planRoute"), QStringLiteral("beck-to-summit"));
    drive.settle(800);
    drive.check(QStringLiteral("planNumbers"), false);
    drive.check(QStringLiteral("planOctree"), true);
    drive.wait(600);
    drive.keep("plan-settled.png");
    drive.choose(QStringLiteral("planRoute"), QObject::tr("none shown"));
    drive.trigger(QStringLiteral("view.field")); // its undo, not the route's
    drive.trigger(QStringLiteral("undo"));
    drive.trigger(QStringLiteral("plan"));
}

void measuring(Driver& drive)
{
    drive.trigger(QStringLiteral("view.transect"));
    drive.wait(600);
    drive.keep("transect-empty.png");
    // Short enough for a build machine, long enough to show a curve.
    drive.choose(QStringLiteral("setupB"), QStringLiteral("B plain"));
    drive.write(QStringLiteral("values"), QStringLiteral("2, 3, 4"));
    drive.number(QStringLiteral("rounds"), 3);
    drive.number(QStringLiteral("frames"), 5);
    drive.choose(QStringLiteral("churn"), QString::fromUtf8(churnChoice(ChurnKind::Blocks).title));
    drive.number(QStringLiteral("churnEach"), 8);
    walk(drive);
    drive.keep("transect.png");
    drive.check(QStringLiteral("everySample"), true);
    drive.wait(400);
    drive.keep("transect-samples.png");
    drive.check(QStringLiteral("everySample"), false);
    if (!drive.window().transect().saveCsv(drive.file("transect.csv"))
        || !drive.window().transect().savePlot(drive.file("transect-plots.png")))
        throw Stopped("the result cannot be written");
    drive.find<QWidget>(QStringLiteral("banner")).hide();
    drive.choose(QStringLiteral("setupB"), QObject::tr("no other"));
    drive.choose(QStringLiteral("churn"), QString::fromUtf8(churnChoice(ChurnKind::None).title));
    drive.write(QStringLiteral("values"), QStringLiteral("2, 3, 4, 5"));
    drive.choose(QStringLiteral("across"), QString::fromStdString(findField("chunk.edge")->title));
    drive.write(QStringLiteral("secondValues"), QStringLiteral("16, 32, 64"));
    drive.number(QStringLiteral("frames"), 8);
    walk(drive);
    drive.keep("transect-heat-map.png");
    drive.trigger(QStringLiteral("view.dark"));
    drive.trigger(QStringLiteral("measure.ledger"));
    drive.wait(600);
    auto& runs = drive.find<QTableView>(QStringLiteral("ledgerTable"));
    const int first = runs.model()->rowCount() - 1; // the newest is the uppermost
    if (first < 0)
        throw Stopped("the ledger is empty");
    runs.model()->setData(
        runs.model()->index(first, LedgerTable::tagsColumn()), QObject::tr("before the new mesher"), Qt::EditRole);
    runs.selectRow(first);
    drive.click(QStringLiteral("ledgerPin"));
    drive.wait(600);
    drive.keep("ledger-slate.png");
    drive.trigger(QStringLiteral("view.dark"));
}

} // namespace

void showEveryView(Driver& drive)
{
    drive.trigger(QStringLiteral("setup.valley"));
    drive.trigger(QStringLiteral("world.first-view"));
    drive.settle(1500);
    drive.keep("field.png");
    drive.trigger(QStringLiteral("setup.near"));
    drive.trigger(QStringLiteral("world.first-view"));
    drive.settle(1500);
    editing(drive);
    documents(drive);
    meshes(drive);
    culling(drive);
    levels(drive);
    lights(drive);
    twoSetups(drive);
    plans(drive);
    measuring(drive);
}

} // namespace fell::tour
