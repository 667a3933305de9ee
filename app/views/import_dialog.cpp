// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/import_dialog.h>

#include <fell/app/models/text.h>
#include <fell/app/views/theme.h>
#include <fell/exchange/chunk_stream.h>

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QImageReader>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace fell::app {
namespace {

QDoubleSpinBox* newSpin(double low, double high, double value, const QString& unit, const char* name, QWidget* parent)
{
    auto* spin = new QDoubleSpinBox(parent);
    spin->setRange(low, high);
    spin->setDecimals(2);
    spin->setValue(value);
    spin->setSuffix(unit);
    spin->setObjectName(QLatin1String(name));
    return spin;
}

QString lengthText(double metres)
{
    return metres < 1000 ? QObject::tr("%1 m").arg(figureText(metres))
                         : QObject::tr("%1 km").arg(figureText(metres / 1000));
}

} // namespace

ImportDialog::ImportDialog(const QString& file, Recipe like, QWidget* parent)
    : QDialog(parent)
    , m_file(file)
    , m_like(std::move(like))
    , m_kind(importKindOf(file.toStdString()).value_or(ImportKind::Heights))
{
    const bool isHeights = m_kind == ImportKind::Heights;
    setWindowTitle(isHeights               ? tr("A world from heights")
            : m_kind == ImportKind::Volume ? tr("A world from a volume")
                                           : tr("A world from chunks"));
    setObjectName(QStringLiteral("importDialog"));
    auto* column = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    m_material = new QComboBox(this);
    m_material->setObjectName(QStringLiteral("importMaterial"));
    if (isHeights) {
        constexpr int kPreview = 220;
        m_picture = new QLabel(this);
        QImageReader reader(file);
        reader.setScaledSize(reader.size().scaled(kPreview, kPreview, Qt::KeepAspectRatio));
        constexpr int kQuick = 1024; // pixels: larger ones would hold the window up
        if (reader.size().width() <= kQuick && reader.size().height() <= kQuick)
            m_picture->setPixmap(QPixmap::fromImage(reader.read()));
        m_picture->setAlignment(Qt::AlignCenter);
        column->addWidget(m_picture);
        m_metres = newSpin(0.01, 1000, 2, tr(" m a pixel"), "importMetres", this);
        m_low = newSpin(-20000, 20000, 0, tr(" m"), "importLow", this);
        m_high = newSpin(-20000, 20000, 255, tr(" m"), "importHigh", this);
        form->addRow(tr("Scale"), m_metres);
        form->addRow(tr("Black is at"), m_low);
        form->addRow(tr("White is at"), m_high);
        m_material->addItem(tr("by height and slope"), QString());
        for (QDoubleSpinBox* spin : {m_metres, m_low, m_high})
            connect(spin, &QDoubleSpinBox::valueChanged, this, &ImportDialog::describe);
        if (const auto info = heightPngInfo(file.toStdString())) {
            m_size = {info.value().width, 1, info.value().height};
            m_bits = info.value().bits;
        } else {
            m_trouble = QString::fromStdString(sentence(info.problem()));
        }
    } else if (m_kind == ImportKind::Volume) {
        m_byThreshold = new QCheckBox(tr("what is above"), this);
        m_byThreshold->setObjectName(QStringLiteral("importByThreshold"));
        m_byThreshold->setToolTip(
            tr("Off: each number is the kind of block that the file's own table says, or the one of that number."));
        m_threshold = newSpin(-1e9, 1e9, 0.5, QString(), "importThreshold", this);
        form->addRow(m_byThreshold, m_threshold);
        connect(m_byThreshold, &QCheckBox::toggled, this, &ImportDialog::describe);
    }
    for (std::size_t m = 1; m < m_like.blocks.kinds.size(); ++m) {
        const QString name = QString::fromStdString(m_like.blocks.kinds[m].name);
        m_material->addItem(name, name);
    }
    if (m_kind == ImportKind::Chunks) {
        m_material->hide(); // they bring their own
        readChunks();
    } else {
        form->addRow(isHeights ? tr("Covered") : tr("is"), m_material);
    }
    column->addLayout(form);
    m_says = new QLabel(this);
    m_says->setObjectName(QStringLiteral("importSays"));
    m_says->setWordWrap(true);
    m_says->setMinimumWidth(380);
    column->addWidget(m_says);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel, this);
    m_make = buttons->addButton(tr("Choose a file and make it…"), QDialogButtonBox::AcceptRole);
    m_make->setProperty("primary", true);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    describe();
}

/// What the header says.
void ImportDialog::readChunks()
{
    const auto chunks = ForeignChunks::open(m_file.toStdString());
    if (!chunks) {
        m_trouble = QString::fromStdString(sentence(chunks.problem()));
        return;
    }
    const ForeignHeader& header = chunks.value()->header();
    constexpr std::size_t kListed = 8;
    QStringList names;
    for (std::size_t i = 0; i < std::min(kListed, header.palette.size()); ++i)
        names << QString::fromStdString(header.palette[i].name);
    if (header.palette.size() > kListed)
        names << tr("%1 more").arg(header.palette.size() - kListed);
    m_chunks = tr("%1: chunks of %2 × %3 × %4 voxels of %5. Its materials become the block types of the world: %6.")
                   .arg(QFileInfo(m_file).fileName())
                   .arg(header.edge[0])
                   .arg(header.edge[1])
                   .arg(header.edge[2])
                   .arg(lengthText(header.voxelMetres), names.join(QStringLiteral(", ")));
}

void ImportDialog::describe()
{
    m_make->setEnabled(m_trouble.isEmpty());
    if (!m_trouble.isEmpty())
        return m_says->setText(m_trouble);
    if (m_kind == ImportKind::Chunks)
        return m_says->setText(m_chunks);
    if (m_kind == ImportKind::Volume) {
        m_threshold->setEnabled(m_byThreshold->isChecked());
        m_material->setEnabled(m_byThreshold->isChecked());
        return m_says->setText(tr("%1. Voxels of %2 m; blocks of %3.")
                                   .arg(QFileInfo(m_file).fileName())
                                   .arg(m_like.voxelMetres)
                                   .arg(QString::fromStdString(m_like.name)));
    }
    const double range = m_high->value() - m_low->value();
    m_make->setEnabled(range > 0);
    m_says->setText(range <= 0
            ? tr("White must be higher than black.")
            : tr(
                "%1 × %2 pixels: %3 × %4 of ground, %5 from the lowest to the highest value, %6 a step of %7 bits. Its "
                "heights go into a file next to the world file, of %8.")
                  .arg(m_size[0])
                  .arg(m_size[2])
                  .arg(lengthText(static_cast<double>(m_size[0]) * m_metres->value()),
                      lengthText(static_cast<double>(m_size[2]) * m_metres->value()), lengthText(range),
                      lengthText(range / (m_bits == 8 ? 255 : 65535)))
                  .arg(m_bits)
                  .arg(bytesText(static_cast<std::uint64_t>(2 * m_size[0] * m_size[2]))));
}

ImportSpec ImportDialog::spec() const
{
    ImportSpec out;
    out.in = m_file.toStdString();
    out.like = m_like;
    if (m_kind == ImportKind::Heights) {
        out.metresPerPixel = m_metres->value();
        out.heights = {m_low->value(), m_high->value()};
        out.material = m_material->currentData().toString().toStdString();
    } else if (m_kind == ImportKind::Volume && m_byThreshold->isChecked()) {
        out.threshold = m_threshold->value();
        out.material = m_material->currentData().toString().toStdString();
    }
    return out;
}

} // namespace fell::app

#include "moc_import_dialog.cpp"
