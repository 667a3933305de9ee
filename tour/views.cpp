// SPDX-License-Identifier: GPL-3.0-or-later
// The views of the window, one after the other.
#include "driver.h"

#include <fell/app/models/row_list.h>
#include <fell/app/models/text.h>
#include <fell/app/views/banner.h>
#include <fell/app/views/transect_plots.h>

#include <QComboBox>
#include <QListView>
#include <QSlider>

namespace fell::tour {
namespace {

/// Short enough for a build machine, long enough to show a curve.
TransectSentence shortWalk()
{
    TransectSentence sentence;
    sentence.values = QStringLiteral("2, 3, 4, 5");
    sentence.rounds = 2;
    sentence.frames = 8;
    return sentence;
}

void walk(Driver& drive, const TransectSentence& sentence)
{
    drive.window().transect().setSentence(sentence);
    drive.trigger(QStringLiteral("measure.walk"));
    drive.until("result of the transect", [&] { return !drive.window().runner().isRunning(); });
    drive.until("trial in the ledger", [&] { return drive.window().banner().isVisible(); });
    drive.wait(300);
    drive.window().banner().hide();
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
    drive.find<QSlider>(QStringLiteral("editRadius")).setValue(6);
    drive.pointAt(0.3, 0.62);
    drive.wait(600);
    drive.clickField(0.3, 0.62);
    drive.wait(static_cast<int>(ToolHand::kFuse * 1000) + 700);
    drive.trigger(QStringLiteral("tool=raise"));
    drive.find<QSlider>(QStringLiteral("editRadius")).setValue(5);
    drive.pointAt(0.66, 0.6);
    drive.wait(500);
    drive.clickField(0.66, 0.6);
    drive.wait(500);
    drive.keep("field-edit.png");
}

void documents(Driver& drive)
{
    drive.trigger(QStringLiteral("view.recipe"));
    drive.window().recipe().select(QStringLiteral("/height/layers/2"));
    drive.until("cost of the layers", [&] { return drive.window().recipe().editor().costs().has_value(); });
    drive.wait(300);
    drive.keep("recipe.png");
    drive.trigger(QStringLiteral("view.blocks"));
    if (const auto lamp = findMaterial(drive.window().blocks().editor().set(), "lamp-post"))
        drive.window().blocks().select(*lamp);
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
    drive.holdKey(Qt::Key_W, 2500);
    drive.settle(1200);
    drive.stage(QStringLiteral("mesh"));
    drive.trigger(QStringLiteral("surface=%1").arg(static_cast<int>(Paint::QuadSizes)));
    drive.trigger(QStringLiteral("view.wireframe"));
    drive.wait(1200);
    drive.keep("field-mesh.png");
    drive.session().look.set({});
}

void culling(Driver& drive)
{
    drive.stage(QStringLiteral("cull"));
    drive.tab(QStringLiteral("cullTabs"), 0);
    drive.wait(800);
    // Held where it is; the eye goes back and up to look at what was rejected.
    drive.trigger(QStringLiteral("view.freeze"));
    drive.trigger(QStringLiteral("view.ghosts"));
    drive.session().edited().set("cull.steps", std::vector<std::string>{"octree", "distance", "hidden", "facing"});
    Eye eye = drive.session().eye;
    eye = moved(eye, rightOf(eye) * 90.0 - forwardOf(eye) * 110.0);
    eye = moved(eye, glm::dvec3(0, 90, 0));
    eye.yaw -= 38;
    eye.pitch = -34;
    drive.look(eye);
    drive.settle(1200);
    drive.keep("field-cull.png");
    drive.look(*drive.session().look->frozen);
    drive.session().look.set({});
    drive.trigger(QStringLiteral("view.octree"));
    drive.tab(QStringLiteral("cullTabs"), 2);
    drive.settle(800);
    drive.click(QStringLiteral("measureSteps"));
    drive.until("cost of the steps", [&] { return !drive.session().stepTrial.isRunning(); });
    drive.wait(1200);
    drive.keep("field-octree.png");
    drive.session().look.set({});
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
    drive.session().look.set({});
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
    drive.keep("field-beside.png");
    drive.trigger(QStringLiteral("setup.b-none"));
    drive.trigger(QStringLiteral("setup.near"));
    drive.session().look.set({});
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
    drive.session().look.set({});
}

void twoSetups(Driver& drive)
{
    openWorld(drive, QStringLiteral("corrowdale"));
    drive.stage(QStringLiteral("mesh"));
    drive.settle();
    drive.trigger(QStringLiteral("setup.b-copy"));
    drive.session().edit(true);
    drive.wait(200);
    drive.click(QStringLiteral("mesh.mesher=exposed"));
    drive.wait(200);
    drive.session().edited().set("mesh.shade", "none");
    drive.trigger(QStringLiteral("surface=%1").arg(static_cast<int>(Paint::QuadSizes)));
    drive.wait(1500);
    drive.settle(1800);
    drive.keep("field-wipe.png");
    drive.trigger(QStringLiteral("setup.b-none"));
    drive.session().look.set({});
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
    drive.session().edited().set("stream.distance", 8);
    drive.wait(250);
    drive.keep("plan.png"); // while it fills
    auto& routes = drive.find<QComboBox>(QStringLiteral("planRoute"));
    const int beck = routes.findText(QStringLiteral("beck-to-summit"));
    routes.setCurrentIndex(beck);
    emit routes.activated(beck);
    drive.settle(800);
    drive.check(QStringLiteral("planNumbers"), false);
    drive.check(QStringLiteral("planOctree"), true);
    drive.wait(600);
    drive.keep("plan-settled.png");
    drive.session().routeEditor.open(std::nullopt);
    drive.trigger(QStringLiteral("view.field")); // its undo, not the route's
    drive.session().edited().undo();
    drive.trigger(QStringLiteral("plan"));
}

void measuring(Driver& drive)
{
    drive.trigger(QStringLiteral("view.transect"));
    drive.wait(600);
    drive.keep("transect-empty.png");
    TransectSentence two = shortWalk();
    two.setupB = "plain";
    two.values = QStringLiteral("2, 3, 4");
    two.frames = 5;
    two.churn = {ChurnKind::Blocks, 8};
    walk(drive, two);
    drive.keep("transect.png");
    drive.window().transect().plots().showEverySample(true);
    drive.wait(400);
    drive.keep("transect-samples.png");
    drive.window().transect().plots().showEverySample(false);
    if (!drive.window().transect().saveCsv(drive.file("transect.csv"))
        || !drive.window().transect().savePlot(drive.file("transect-plots.png")))
        throw Stopped("the result cannot be written");
    drive.window().banner().hide();
    TransectSentence pairs = shortWalk();
    pairs.second = "chunk.edge";
    pairs.secondValues = QStringLiteral("16, 32, 64");
    walk(drive, pairs);
    drive.keep("transect-heat-map.png");
    drive.window().ledger().setTags(1, QObject::tr("before the new mesher"));
    drive.window().ledger().pin(1, true);
    drive.trigger(QStringLiteral("view.dark"));
    drive.trigger(QStringLiteral("measure.ledger"));
    drive.wait(600);
    drive.keep("ledger-slate.png");
    drive.trigger(QStringLiteral("view.dark"));
}

} // namespace

void showEveryView(Driver& drive)
{
    drive.settle(1500);
    drive.keep("field.png");
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
