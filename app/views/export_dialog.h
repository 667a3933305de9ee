// SPDX-License-Identifier: GPL-3.0-or-later
// Which box of the world is exported, and as what: the box is shown in the field while it is chosen.
#pragma once

#include <fell/exchange/surface.h>

#include <QDialog>

#include <array>

class QComboBox;
class QLabel;
class QLayout;
class QLineEdit;
class QPushButton;
class QSpinBox;

namespace fell::app {

class ExportDialog : public QDialog {
    Q_OBJECT
public:
    /// Begins with a box round `middle`, in voxels. `mesher`: the setup's, for the words.
    ExportDialog(VoxelPos middle, const Recipe& recipe, const QString& mesher, QWidget* parent = nullptr);

    [[nodiscard]] VoxelBox box() const;
    [[nodiscard]] std::string format() const;
    [[nodiscard]] QString file() const;

signals:
    void boxChanged(const fell::exchange::VoxelBox& box);

private:
    void describe();
    QLayout* row(std::array<QSpinBox*, 3>& spins, const char* name, int low, int high,
        const std::array<std::int64_t, 3>& values);

    double m_voxelMetres;
    QString m_mesher;
    std::array<QSpinBox*, 3> m_middle{}, m_size{}; // voxels on x, y, z
    QComboBox* m_format = nullptr;
    QLineEdit* m_file = nullptr;
    QLabel* m_says = nullptr;
    QPushButton* m_write = nullptr;
};

} // namespace fell::app
