// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/tour.h>

#include <fell/app/views/transect_plots.h>

#include <fell/app/views/banner.h>

#include <QCoreApplication>
#include <QGuiApplication>
#include <QListWidget>
#include <QMouseEvent>
#include <QScreen>
#include <QTabBar>

namespace fell::app {
namespace {

constexpr int kTickMs = 100, kPatienceMs = 120000;

/// Short enough for a build machine, long enough to show a curve.
TransectSentence shortWalk()
{
    TransectSentence sentence;
    sentence.values = QStringLiteral("2, 3, 4, 5");
    sentence.rounds = 2;
    sentence.frames = 8;
    return sentence;
}

/// Moves the pointer over the field, parts of its width and height from the left and the top.
void pointAt(FieldWindow& field, double x, double y)
{
    const QPointF at(x * field.width(), y * field.height());
    for (const double step : {-2.0, 0.0}) {
        QMouseEvent move(
            QEvent::MouseMove, at + QPointF(step, 0), field.mapToGlobal(at), Qt::NoButton, Qt::NoButton, {});
        QCoreApplication::sendEvent(&field, &move);
    }
}

} // namespace

Tour::Tour(MainWindow& window, const QString& folder)
    : m_window(window)
    , m_folder(folder)
{
    m_timer.setInterval(kTickMs);
    connect(&m_timer, &QTimer::timeout, this, &Tour::tick);
    connect(&window.transect(), &TransectView::trouble, this, [this](const QString& why) { m_trouble = why; });
    const auto settled = [this] {
        FieldWindow* field = m_window.field().window();
        return !field || field->isUpToDate();
    };
    const auto once = [](auto run) {
        return [run] {
            run();
            return true;
        };
    };
    m_steps = {
        settled,
        wait(1500),
        once([this] { keep("field.png"); }),
        once([this] {
            // A hole blasted into the bank, and a hill raised beside it.
            m_window.session().eye.pitch = -16;
            m_window.session().editor.setRadius(6);
            m_window.session().editor.take(ToolKind::Blast);
            if (FieldWindow* field = m_window.field().window())
                pointAt(*field, 0.3, 0.62);
        }),
        wait(600),
        once([this] { m_window.session().useTool(); }),
        wait(static_cast<int>(ToolHand::kFuse * 1000) + 700),
        once([this] {
            m_window.session().editor.setRadius(5);
            m_window.session().editor.take(ToolKind::Raise);
            if (FieldWindow* field = m_window.field().window())
                pointAt(*field, 0.66, 0.6);
        }),
        wait(500),
        once([this] { m_window.session().useTool(); }),
        wait(500),
        once([this] { keep("field-edit.png"); }),
        once([this] {
            m_window.showRecipe();
            m_window.recipe().select(QStringLiteral("/height/layers/2"));
        }),
        [this] { return m_window.recipe().editor().costs().has_value(); },
        wait(300),
        once([this] {
            keep("recipe.png");
            m_window.showBlocks();
            if (const auto lamp = findMaterial(m_window.blocks().editor().set(), "lamp-post"))
                m_window.blocks().select(*lamp);
        }),
        wait(900),
        once([this] {
            keep("blocks.png");
            m_window.showField();
        }),
        wait(300),
        once([this] {
            m_window.session().undoEdit();
            m_window.session().editor.take(std::nullopt);
        }),
        wait(500),
        once([this] { m_window.session().undoEdit(); }),
        once([this] { m_window.session().flight.keys.forward = true; }),
        wait(2500),
        once([this] {
            m_window.session().flight.keys = {};
            emit m_window.rail().stageClicked(QStringLiteral("generate"), false);
        }),
        settled,
        wait(1200),
        once([this] {
            emit m_window.rail().stageClicked(QStringLiteral("mesh"), false);
            m_window.session().look.change([&](FieldLook& look) { look.paint = Paint::QuadSizes; });
            m_window.session().look.change([&](FieldLook& look) { look.wireframe = true; });
            m_window.bench().openStage(QStringLiteral("mesh"));
        }),
        wait(1200),
        once([this] { keep("field-mesh.png"); }),
        once([this] {
            m_window.session().look.set({});
            emit m_window.rail().stageClicked(QStringLiteral("cull"), false);
            cullTab(0);
        }),
        wait(800),
        once([this] {
            // Held where it is; the eye goes back and up to look at what was rejected.
            WorldSession& session = m_window.session();
            session.look.change([&](FieldLook& look) { look.frozen = session.eye; });
            session.look.change([&](FieldLook& look) { look.ghosts = true; });
            session.edited().set("cull.steps", std::vector<std::string>{"octree", "distance", "hidden", "facing"});
            session.eye = moved(session.eye, rightOf(session.eye) * 90.0 - forwardOf(session.eye) * 110.0);
            session.eye = moved(session.eye, glm::dvec3(0, 90, 0));
            session.eye.yaw -= 38;
            session.eye.pitch = -34;
        }),
        settled,
        wait(1200),
        once([this] { keep("field-cull.png"); }),
        once([this] {
            WorldSession& session = m_window.session();
            session.eye = *session.look->frozen;
            session.look.set({});
            session.look.change([&](FieldLook& look) { look.octree = true; });
            cullTab(2);
        }),
        settled,
        wait(800),
        once([this] { m_window.bench().findChild<QAbstractButton*>(QStringLiteral("measureSteps"))->click(); }),
        [this] { return !m_window.field().window() || !m_window.session().stepTrial.isRunning(); },
        wait(1200),
        once([this] { keep("field-octree.png"); }),
        once([this] {
            m_window.session().look.set({});
            m_window.session().edited().undo();
            cullTab(3);
        }),
        wait(400),
        once([this] { m_window.bench().findChild<QAbstractButton*>(QStringLiteral("auditCull"))->click(); }),
        [this] { return !m_window.bench().cullAudit().isRunning(); },
        wait(600),
        once([this] {
            // One that is seen whole, not one that fills the picture.
            if (auto* list = m_window.bench().findChild<QListWidget*>(QStringLiteral("lostChunks")))
                for (int row = 0; row < list->count(); ++row)
                    if (list->item(row)->text().section(QLatin1Char(' '), 0, 0).toInt() < 4000) {
                        list->setCurrentRow(row);
                        emit list->itemClicked(list->item(row));
                        break;
                    }
        }),
        settled,
        wait(1500),
        once([this] { keep("field-audit.png"); }),
        once([this] {
            WorldSession& session = m_window.session();
            session.look.set({});
            m_window.setups().open(QStringLiteral("long-view"));
            emit m_window.rail().stageClicked(QStringLiteral("levels"), false);
            session.eye = eyeAt({{-200, 0, -212}, 128, -9}, 16, session.terrain());
        }),
        settled,
        wait(2500),
        once([this] { keep("field-horizon.png"); }),
        once([this] { m_window.session().look.change([&](FieldLook& look) { look.paint = Paint::Levels; }); }),
        wait(1500),
        once([this] { keep("field-detail.png"); }),
        once([this] { m_window.showPlan(true); }),
        wait(1800),
        once([this] { keep("plan-horizon.png"); }),
        once([this] {
            m_window.showPlan(false);
            m_window.session().look.change([&](FieldLook& look) { look.paint = Paint::Textures; });
            if (const auto route = findRoute("beck-to-summit", demoFolder() / "routes"))
                m_window.session().eye = eyeOn(route.value(), 0.25, m_window.session().terrain());
            m_window.setups().compareWithFullDetail();
        }),
        [this] { return !m_window.field().window() || m_window.field().window()->difference().has_value(); },
        wait(600),
        once([this] { keep("field-beside.png"); }),
        once([this] {
            m_window.setups().compareWith(std::nullopt);
            m_window.setups().open(QStringLiteral("near"));
        }),
        once([this] {
            m_window.session().look.set({});
            (void)m_window.session().changes()->takeUnsaved(); // nobody is there to be asked about them
            m_window.world().open(QStringLiteral("gallery"));
            emit m_window.rail().stageClicked(QStringLiteral("light"), false);
            m_window.bench().findChild<QAbstractButton*>(QStringLiteral("measureLight"))->click();
        }),
        [this] { return !m_window.bench().lightTrial().isRunning(); },
        settled,
        wait(1800),
        once([this] { keep("field-light.png"); }),
        once([this] {
            m_window.session().eye = eyeAt({{24, 4, 50}, 285, -14}, -1e6, m_window.session().terrain());
            m_window.session().look.change([&](FieldLook& look) { look.paint = Paint::Light; });
            m_window.bench().openStage(QStringLiteral("light"));
            if (FieldWindow* field = m_window.field().window())
                pointAt(*field, 0.45, 0.75);
        }),
        wait(2200),
        once([this] { keep("field-levels.png"); }),
        once([this] {
            if (FieldWindow* field = m_window.field().window()) {
                QEvent leave(QEvent::Leave);
                QCoreApplication::sendEvent(field, &leave);
            }
            m_window.session().look.set({});
            m_window.world().open(QStringLiteral("corrowdale"));
            emit m_window.rail().stageClicked(QStringLiteral("mesh"), false);
        }),
        settled,
        once([this] {
            m_window.setups().compareWith(QString());
            m_window.session().edit(true);
            m_window.session().edited().set("mesh.mesher", "exposed");
            m_window.session().edited().set("mesh.shade", "none");
            m_window.session().look.change([&](FieldLook& look) { look.paint = Paint::QuadSizes; });
        }),
        wait(1500),
        [this] {
            FieldWindow* field = m_window.field().window();
            return !field || (m_window.session().hasB() && field->isUpToDate());
        },
        wait(1800),
        once([this] { keep("field-wipe.png"); }),
        once([this] {
            m_window.setups().compareWith(std::nullopt);
            m_window.session().look.set({});
            emit m_window.rail().stageClicked(QStringLiteral("draw"), false);
        }),
        wait(1200),
        once([this] { m_window.bench().findChild<QAbstractButton*>(QStringLiteral("measurePasses"))->click(); }),
        [this] { return !m_window.field().window() || !m_window.session().stepTrial.isRunning(); },
        wait(1200),
        once([this] { keep("field-draw.png"); }),
        once([this] { m_window.showPlan(true); }),
        wait(1200),
        once([this] {
            m_window.plan().findChild<QCheckBox*>(QStringLiteral("planNumbers"))->setChecked(true);
            m_window.session().edited().set("stream.distance", 8);
        }),
        wait(250),
        once([this] {
            keep("plan.png");
            m_window.session().routeEditor.open(routeNamed("beck-to-summit").take());
        }),
        settled,
        wait(800),
        once([this] { m_window.plan().findChild<QCheckBox*>(QStringLiteral("planNumbers"))->setChecked(false); }),
        once([this] { m_window.plan().findChild<QCheckBox*>(QStringLiteral("planOctree"))->setChecked(true); }),
        wait(600),
        once([this] {
            keep("plan-settled.png");
            m_window.session().routeEditor.open(std::nullopt);
        }),
        once([this] {
            m_window.session().edited().undo();
            m_window.showPlan(false);
            m_window.showTransect();
        }),
        wait(600),
        once([this] { keep("transect-empty.png"); }),
        once([this] {
            TransectSentence two = shortWalk();
            two.setupB = "plain";
            two.values = QStringLiteral("2, 3, 4");
            two.frames = 5;
            two.churn = {ChurnKind::Blocks, 8};
            m_window.transect().setSentence(two);
            m_window.transect().walk();
        }),
        [this] { return !m_window.runner().isRunning(); },
        wait(600),
        once([this] {
            m_window.banner().hide();
            keep("transect.png");
        }),
        once([this] { m_window.transect().plots().showEverySample(true); }),
        wait(400),
        once([this] {
            keep("transect-samples.png");
            m_window.transect().plots().showEverySample(false);
        }),
        once([this] {
            m_window.transect().saveCsv(m_folder.filePath(QStringLiteral("transect.csv")));
            m_window.transect().savePlot(m_folder.filePath(QStringLiteral("transect-plots.png")));
            m_window.banner().hide();
        }),
        once([this] {
            TransectSentence pairs = shortWalk();
            pairs.values = QStringLiteral("2, 3, 4, 5");
            pairs.second = "chunk.edge";
            pairs.secondValues = QStringLiteral("16, 32, 64");
            pairs.setupB.clear();
            m_window.transect().setSentence(pairs);
            m_window.transect().walk();
        }),
        [this] { return !m_window.runner().isRunning(); },
        wait(600),
        once([this] { keep("transect-heat-map.png"); }),
        once([this] {
            m_window.banner().hide();
            m_window.ledger().setTags(1, tr("before the new mesher"));
            m_window.ledger().pin(1, true);
            m_window.setDark(true);
            m_window.transect().showLedger(true);
        }),
        wait(600),
        once([this] {
            keep("ledger-slate.png");
            m_window.setDark(false);
        }),
    };
}

void Tour::cullTab(int index)
{
    m_window.bench().findChild<QTabBar*>(QStringLiteral("cullTabs"))->setCurrentIndex(index);
}

void Tour::start()
{
    m_since.start();
    m_timer.start();
}

Tour::Step Tour::wait(int ms)
{
    return [this, ms] { return m_since.elapsed() >= ms; };
}

void Tour::tick()
{
    if (m_steps.empty() || m_since.elapsed() > kPatienceMs) {
        m_timer.stop();
        emit ended(m_steps.empty() ? m_trouble : tr("the tour waited two minutes for a step that did not come"));
        return;
    }
    if (!m_steps.front()())
        return;
    m_steps.pop_front();
    m_since.restart();
}

void Tour::keep(const char* name)
{
    // From the screen: a widget's own grab would miss the field, which is a native window.
    const QPixmap picture = QGuiApplication::primaryScreen()->grabWindow(m_window.winId());
    const QString file = m_folder.filePath(QLatin1String(name));
    if (!picture.save(file, "PNG"))
        m_trouble = tr("%1: cannot be written").arg(file);
}

} // namespace fell::app
