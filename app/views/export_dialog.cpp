// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/export_dialog.h>

#include <fell/app/models/text.h>
#include <fell/app/views/cards.h>

#include <QComboBox>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>

namespace fell::app {
namespace {

constexpr int kFarthest = 1'000'000'000; // voxels from the origin; QSpinBox holds int
constexpr int kUsual = 64; // voxels along each axis
constexpr std::array<const char*, 3> kAxes{"X", "Y", "Z"};

} // namespace

ExportDialog::ExportDialog(VoxelPos middle, const Recipe& recipe, const QString& mesher, QWidget* parent)
    : QDialog(parent)
    , m_voxelMetres(recipe.voxelMetres)
    , m_mesher(mesher)
{
    setWindowTitle(tr("Export a box"));
    setObjectName(QStringLiteral("exportDialog"));
    auto* column = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    form->addRow(
        tr("Middle, voxels"), row(m_middle, "exportMiddle", -kFarthest, kFarthest, {middle.x, middle.y, middle.z}));
    form->addRow(
        tr("Size, voxels"), row(m_size, "exportSize", 1, static_cast<int>(kLongestExport), {kUsual, kUsual, kUsual}));
    m_format = new QComboBox(this);
    m_format->setObjectName(QStringLiteral("exportFormat"));
    for (const MeshFileFormat& format : meshFileFormats())
        m_format->addItem(
            tr("%1 (.%2)").arg(QLatin1String(format.title), QLatin1String(format.id)), QLatin1String(format.id));
    form->addRow(tr("Format"), m_format);
    auto* line = new QHBoxLayout;
    m_file = new QLineEdit(this);
    m_file->setObjectName(QStringLiteral("exportFile"));
    m_file->setPlaceholderText(tr("the file to write"));
    auto* browse = new QPushButton(tr("Choose…"), this);
    browse->setAutoDefault(false);
    line->addWidget(m_file, 1);
    line->addWidget(browse);
    form->addRow(tr("File"), line);
    column->addWidget(
        newLabel(tr("<b>Export a box</b> — its surface, as the mesher makes it, for other tools"), "plain", this));
    column->addSpacing(4);
    column->addLayout(form);
    m_says = new QLabel(this);
    m_says->setObjectName(QStringLiteral("exportSays"));
    m_says->setWordWrap(true);
    m_says->setMinimumWidth(420);
    column->addWidget(m_says);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel, this);
    buttons->button(QDialogButtonBox::Cancel)->setIcon({});
    m_write = buttons->addButton(tr("Export"), QDialogButtonBox::AcceptRole);
    m_write->setObjectName(QStringLiteral("exportWrite"));
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(m_file, &QLineEdit::textChanged, this, &ExportDialog::describe);
    connect(m_format, &QComboBox::currentIndexChanged, this, &ExportDialog::describe);
    connect(browse, &QPushButton::clicked, this, [this] {
        const QString ending = m_format->currentData().toString();
        const QString chosen = QFileDialog::getSaveFileName(
            this, tr("The file to write"), QStringLiteral("box.") + ending, tr("Mesh (*.%1)").arg(ending));
        if (!chosen.isEmpty())
            m_file->setText(chosen);
    });
    describe();
}

/// Three numbers in a row, one an axis.
QLayout* ExportDialog::row(
    std::array<QSpinBox*, 3>& spins, const char* name, int low, int high, const std::array<std::int64_t, 3>& values)
{
    auto* line = new QHBoxLayout;
    for (std::size_t axis = 0; axis < 3; ++axis) {
        auto* spin = new QSpinBox(this);
        spin->setRange(low, high);
        spin->setValue(static_cast<int>(std::clamp<std::int64_t>(values[axis], low, high)));
        spin->setPrefix(QLatin1String(kAxes[axis]) + QLatin1Char(' '));
        spin->setObjectName(QLatin1String(name) + QLatin1String(kAxes[axis]));
        spin->setMinimumWidth(110);
        connect(spin, &QSpinBox::valueChanged, this, &ExportDialog::describe);
        line->addWidget(spin);
        spins[axis] = spin;
    }
    return line;
}

VoxelBox ExportDialog::box() const
{
    const auto low = [this](std::size_t axis) {
        return static_cast<std::int64_t>(m_middle[axis]->value()) - m_size[axis]->value() / 2;
    };
    const VoxelPos from{low(0), low(1), low(2)};
    return {from, from + VoxelPos{m_size[0]->value(), m_size[1]->value(), m_size[2]->value()}};
}

std::string ExportDialog::format() const
{
    return m_format->currentData().toString().toStdString();
}

QString ExportDialog::file() const
{
    const QString text = m_file->text().trimmed(), ending = QLatin1Char('.') + m_format->currentData().toString();
    return text.isEmpty() || text.endsWith(ending) ? text : text + ending;
}

void ExportDialog::describe()
{
    const VoxelBox of = box();
    const std::int64_t voxels = (of.high.x - of.low.x) * (of.high.y - of.low.y) * (of.high.z - of.low.z);
    const bool isTooLarge = voxels > kLargestExport;
    const auto metres = [this](std::int64_t along) { return figureText(static_cast<double>(along) * m_voxelMetres); };
    m_says->setText(isTooLarge
            ? tr("%1 voxels: at most %2 (512 cubed) are allowed in one box.")
                  .arg(countText(static_cast<std::uint64_t>(voxels)),
                      countText(static_cast<std::uint64_t>(kLargestExport)))
            : tr("%1 × %2 × %3 m, shown in the field. Meshed with %4, as the setup says; on the command line it is "
                 "--box=%5,%6,%7,%8,%9,%10")
                  .arg(metres(of.high.x - of.low.x), metres(of.high.y - of.low.y), metres(of.high.z - of.low.z),
                      m_mesher)
                  .arg(of.low.x)
                  .arg(of.low.y)
                  .arg(of.low.z)
                  .arg(of.high.x)
                  .arg(of.high.y)
                  .arg(of.high.z));
    m_write->setEnabled(!isTooLarge && !m_file->text().trimmed().isEmpty());
    emit boxChanged(of);
}

} // namespace fell::app

#include "moc_export_dialog.cpp"
