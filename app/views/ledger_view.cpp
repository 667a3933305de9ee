// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/ledger_view.h>

#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>

#include <algorithm>
#include <array>

namespace fell::app {

LedgerView::LedgerView(LedgerKeeper& keeper, QWidget* parent)
    : QWidget(parent)
    , m_keeper(keeper)
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addLayout(buildTools());

    m_model = new LedgerTable(this);
    buildTable();
    column->addWidget(m_table, 1);
    m_empty = new QLabel(this);
    m_empty->setProperty("muted", true);
    m_empty->setAlignment(Qt::AlignCenter);
    column->addWidget(m_empty, 1);

    connect(m_search, &QLineEdit::textChanged, &m_keeper, &LedgerKeeper::list);
    connect(&m_keeper, &LedgerKeeper::listed, this, [this](const std::vector<TrialEntry>& entries) {
        m_model->show(entries);
        m_table->setVisible(!entries.empty());
        m_empty->setVisible(entries.empty());
        m_empty->setText(m_search->text().isEmpty()
                ? tr("No run yet. Every transect is saved here automatically. “Import…” adds runs of another machine.")
                : tr("No trial has all of these words."));
        enableButtons();
        emit counted(static_cast<int>(entries.size()));
    });
    connect(m_model, &LedgerTable::tagged, &m_keeper, &LedgerKeeper::setTags);
    connect(m_table->selectionModel(), &QItemSelectionModel::selectionChanged, this, &LedgerView::enableButtons);
    connect(m_table, &QTableView::doubleClicked, this, [this](const QModelIndex& at) {
        if (at.column() != LedgerTable::tagsColumn()) // there it is written into
            m_keeper.show(m_model->entry(at.row()).id);
    });
    m_empty->setText(tr("Opening the ledger …"));
    m_table->hide();
    enableButtons();
}

/// What is found, and what is done with what was found.
QLayout* LedgerView::buildTools()
{
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    m_search = new QLineEdit(this);
    m_search->setObjectName(QStringLiteral("ledgerSearch"));
    m_search->setPlaceholderText(tr("Find trials: words of world, route, setup, machine, commit, tags …"));
    m_search->setClearButtonEnabled(true);
    m_search->setToolTip(tr("Shows the runs that contain every word."));
    row->addWidget(m_search, 1);
    const auto button = [&](const QString& text, const char* name, const QString& tip, auto&& run) {
        auto* made = new QPushButton(text, this);
        made->setObjectName(QLatin1String(name));
        made->setToolTip(tip);
        connect(made, &QPushButton::clicked, this, run);
        row->addWidget(made);
        return made;
    };
    m_show = button(tr("Show"), "ledgerShow", tr("Its plots and rows, as if it had just been walked."),
        [this] { m_keeper.show(selected().at(0)); });
    m_compare = button(tr("Compare two"), "ledgerCompare",
        tr("The upper one as A, the lower one as B: their curves in one plot and their ratio."), [this] {
            const auto two = selected();
            m_keeper.compare(two.at(0), two.at(1));
        });
    m_pin = button(tr("Pin as baseline"), "ledgerPin",
        tr("Later runs of the same world, route and settings are compared with it."), [this] {
            const TrialEntry& of = m_model->entry(m_table->selectionModel()->selectedRows().at(0).row());
            m_keeper.pin(of.id, !of.isPinned);
        });
    m_remove = button(tr("Delete…"), "ledgerRemove", tr("For good, after a question."), [this] { askRemove(); });
    m_export = button(tr("Export…"), "ledgerExport",
        tr("Exports the selected runs, or all: JSON with raw samples, or CSV for a spreadsheet."),
        [this] { askExport(); });
    button(tr("Import…"), "ledgerImport", tr("Trials that another machine exported, or one transect's JSON."),
        [this] { askImport(); });
    return row;
}

void LedgerView::buildTable()
{
    m_table = new QTableView(this);
    m_table->setObjectName(QStringLiteral("ledgerTable"));
    m_table->setModel(m_model);
    m_table->setShowGrid(false);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_table->setWordWrap(false);
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setDefaultSectionSize(24);
    QHeaderView* header = m_table->horizontalHeader();
    header->setSectionResizeMode(QHeaderView::Interactive);
    header->setStretchLastSection(true);
    constexpr std::array<int, 10> kWidths{44, 78, 132, 96, 196, 104, 82, 80, 72, 110};
    for (std::size_t i = 0; i < kWidths.size(); ++i)
        header->resizeSection(static_cast<int>(i), kWidths[i]);
}

std::vector<std::int64_t> LedgerView::selected() const
{
    std::vector<int> rows;
    for (const QModelIndex& at : m_table->selectionModel()->selectedRows())
        rows.push_back(at.row());
    std::sort(rows.begin(), rows.end());
    std::vector<std::int64_t> ids;
    for (const int row : rows)
        ids.push_back(m_model->entry(row).id);
    return ids;
}

void LedgerView::enableButtons()
{
    const auto rows = m_table->selectionModel()->selectedRows();
    m_show->setEnabled(rows.size() == 1);
    m_compare->setEnabled(rows.size() == 2);
    m_pin->setEnabled(rows.size() == 1);
    m_pin->setText(
        rows.size() == 1 && m_model->entry(rows[0].row()).isPinned ? tr("Unpin baseline") : tr("Pin as baseline"));
    m_remove->setEnabled(!rows.isEmpty());
    m_export->setEnabled(m_model->rowCount() > 0);
}

void LedgerView::askExport()
{
    std::vector<std::int64_t> ids = selected();
    if (ids.empty())
        for (int row = 0; row < m_model->rowCount(); ++row)
            ids.push_back(m_model->entry(row).id);
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Export trials"), QStringLiteral("trials.json"), tr("Trials (*.json);;Rows (*.csv)"));
    if (!file.isEmpty())
        m_keeper.exportTo(file, std::move(ids));
}

void LedgerView::askImport()
{
    const QString file = QFileDialog::getOpenFileName(this, tr("Import trials"), QString(), tr("Trials (*.json)"));
    if (!file.isEmpty())
        m_keeper.importFrom(file);
}

void LedgerView::askRemove()
{
    const std::vector<std::int64_t> ids = selected();
    QMessageBox box(QMessageBox::NoIcon, tr("Delete trials"),
        ids.size() == 1 ? tr("Delete trial %1 for good?").arg(ids[0])
                        : tr("Delete %1 trials for good?").arg(ids.size()),
        QMessageBox::NoButton, this);
    box.setObjectName(QStringLiteral("removeQuestion"));
    box.setInformativeText(tr("Their raw samples go too. Export them first to keep them elsewhere."));
    const QAbstractButton* yes = box.addButton(tr("Delete"), QMessageBox::AcceptRole);
    box.setDefaultButton(box.addButton(tr("Keep"), QMessageBox::RejectRole));
    box.exec();
    if (box.clickedButton() == yes)
        m_keeper.remove(ids);
}

} // namespace fell::app

#include "moc_ledger_view.cpp"
