// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/block_cube.h>

#include <fell/app/views/block_book.h>
#include <fell/app/views/cards.h>

#include <fell/app/views/theme.h>

#include <QDragEnterEvent>
#include <QMimeData>
#include <QPainter>

#include <cmath>

namespace fell::app {

BlockCube::BlockCube(QWidget* parent)
    : QWidget(parent)
{
    setObjectName(QStringLiteral("blockCube"));
    setMinimumSize(240, 240);
    setAcceptDrops(true);
    setToolTip(
        tr("Drop a picture (PNG) on a side: it becomes the texture of that side. Textures cost the same whatever "
           "they show."));
}

void BlockCube::show(const BlockKind& kind, const std::filesystem::path& folder)
{
    m_kind = kind;
    for (std::size_t i = 0; i < 3; ++i)
        m_textures[i] = kind.textures[i].empty() ? QImage()
                                                 : QImage(QString::fromStdString((folder / kind.textures[i]).string()))
                                                       .convertToFormat(QImage::Format_RGB32);
    update();
}

void BlockCube::setSun(double degrees)
{
    m_sun = degrees;
    update();
}

/// Where a corner of the voxel is seen, from above the corner that is highest on x and z.
QPointF BlockCube::onScreen(const glm::vec3& at) const
{
    const double size = std::min(width(), height()) * 0.4;
    const QPointF foot(width() / 2.0, height() / 2.0 + size * 0.95); // of the corner in front
    const double x = at.x - 1.0, y = at.y, z = at.z - 1.0;
    return foot + QPointF((x - z) * 0.866 * size, (x + z) * 0.5 * size - y * size);
}

QPolygonF BlockCube::cornersOf(int side) const
{
    const auto at = [this](float x, float y, float z) { return onScreen({x, y, z}); };
    return side == 0 ? QPolygonF{at(0, 1, 1), at(1, 1, 1), at(1, 1, 0), at(0, 1, 0)}
        : side == 1  ? QPolygonF{at(0, 0, 1), at(1, 0, 1), at(1, 1, 1), at(0, 1, 1)}
                     : QPolygonF{at(1, 0, 1), at(1, 0, 0), at(1, 1, 0), at(1, 1, 1)};
}

double BlockCube::litOf(const glm::vec3& normal) const
{
    const double up = std::sin(m_sun * 3.14159265 / 180), along = std::cos(m_sun * 3.14159265 / 180);
    const double day = std::clamp(up * 3 + 0.35, 0.0, 1.0); // a little light is left at dusk
    const double sun = std::max(0.0, normal.y * up + (0.8 * normal.x + 0.3 * normal.z) * along);
    const double own = *std::max_element(m_kind.light.emission.begin(), m_kind.light.emission.end()) / 15.0;
    const double shape
        = 0.82 + 0.18 * std::clamp(0.6 * normal.y + 0.4 * normal.x, 0.0, 1.0); // edges are seen in any light
    return std::max((0.4 + 0.6 * sun) * day, own) * shape;
}

void BlockCube::paintEvent(QPaintEvent* /*event*/)
{
    QPainter painter(this);
    const Theme& theme = currentTheme();
    const double day = std::clamp(std::sin(m_sun * 3.14159265 / 180) * 3 + 0.35, 0.0, 1.0);
    const QColor sky = theme.dark ? QColor(44, 54, 60) : QColor(226, 234, 237);
    painter.fillRect(rect(), sky.darker(100 + static_cast<int>(160 * (1 - day))));
    painter.setRenderHint(QPainter::Antialiasing);
    if (m_kind.shape)
        paintShape(painter);
    else
        paintCube(painter);
}

void BlockCube::paintCube(QPainter& painter)
{
    const std::array<glm::vec3, 3> normals{glm::vec3{0, 1, 0}, {0, 0, 1}, {1, 0, 0}};
    for (int side = 0; side < 3; ++side) {
        const QPolygonF corners = cornersOf(side);
        const QImage& texture = m_textures[side == 0 ? 0 : 1];
        constexpr int kPlain = 8;
        QImage image = texture.isNull() ? QImage(kPlain, kPlain, QImage::Format_RGB32) : texture;
        if (texture.isNull())
            image.fill(colourOf(side == 0 ? m_kind.top : m_kind.side));
        const double w = image.width(), h = image.height();
        QTransform to;
        if (!QTransform::quadToQuad(QPolygonF{{0, h}, {w, h}, {w, 0}, {0, 0}}, corners, to))
            continue;
        painter.save();
        painter.setOpacity(m_kind.matter == Matter::Solid ? 1 : 0.35 + 0.65 * m_kind.opacity);
        painter.setTransform(to, true);
        painter.drawImage(QPointF(0, 0), image);
        painter.restore();
        painter.setPen(Qt::NoPen);
        const double dark = 1 - litOf(normals[static_cast<std::size_t>(side)]);
        painter.setBrush(QColor(10, 14, 24, static_cast<int>(225 * std::clamp(dark, 0.0, 1.0))));
        painter.drawPolygon(corners);
    }
}

/// Triangle by triangle from the back.
void BlockCube::paintShape(QPainter& painter)
{
    std::vector<const ShapeTriangle*> seen;
    for (const ShapeTriangle& one : m_kind.shape->triangles)
        if (one.normal.x + one.normal.y + one.normal.z > 0)
            seen.push_back(&one);
    const auto near = [](const ShapeTriangle* one) {
        float sum = 0;
        for (const glm::vec3& corner : one->corners)
            sum += corner.x + corner.y + corner.z;
        return sum;
    };
    std::sort(seen.begin(), seen.end(),
        [&near](const ShapeTriangle* a, const ShapeTriangle* b) { return near(a) < near(b); });
    for (const ShapeTriangle* one : seen) {
        const Rgb own = one->colour ? *one->colour : one->normal.y > 0.7F ? m_kind.top : m_kind.side;
        const double lit = std::clamp(litOf(one->normal), 0.12, 1.0);
        const QColor colour(
            static_cast<int>(own.r * lit), static_cast<int>(own.g * lit), static_cast<int>(own.b * lit));
        painter.setBrush(colour);
        painter.setPen(QPen(colour, 0.6)); // no seams between them
        painter.drawPolygon(QPolygonF{onScreen(one->corners[0]), onScreen(one->corners[1]), onScreen(one->corners[2])});
    }
}

void BlockCube::dragEnterEvent(QDragEnterEvent* event)
{
    if (event->mimeData()->hasUrls())
        event->acceptProposedAction();
}

void BlockCube::dropEvent(QDropEvent* event)
{
    const QString file = event->mimeData()->urls().value(0).toLocalFile();
    const bool isTop = cornersOf(0).containsPoint(event->position(), Qt::OddEvenFill);
    emit dropped(file, isTop ? Side::Up : Side::South);
}

} // namespace fell::app

#include "moc_block_cube.cpp"
