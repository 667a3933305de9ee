// SPDX-License-Identifier: GPL-3.0-or-later
// Heights, a volume or chunks from elsewhere: what they will become, before anything is made.
#pragma once

#include <fell/exchange/world_import.h>

#include <QDialog>

class QComboBox;
class QDoubleSpinBox;
class QCheckBox;
class QLabel;

namespace fell::app {

class ImportDialog : public QDialog {
    Q_OBJECT
public:
    /// Asserts that the file is of a kind that can be imported.
    ImportDialog(const QString& file, Recipe like, QWidget* parent = nullptr);

    /// The dialog's values; without the output file.
    [[nodiscard]] ImportSpec spec() const;

private:
    void describe();
    void readChunks();

    QString m_file;
    Recipe m_like;
    ImportKind m_kind;
    QString m_trouble; // why the file cannot be read
    QString m_chunks; // what it says, if it is of chunks
    std::array<std::int64_t, 3> m_size{};
    int m_bits = 0;
    QDoubleSpinBox *m_metres = nullptr, *m_low = nullptr, *m_high = nullptr, *m_threshold = nullptr;
    QCheckBox* m_byThreshold = nullptr;
    QComboBox* m_material = nullptr;
    QLabel *m_says = nullptr, *m_picture = nullptr;
    QPushButton* m_make = nullptr;
};

} // namespace fell::app
