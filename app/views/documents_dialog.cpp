// SPDX-License-Identifier: GPL-3.0-or-later
#include <fell/app/views/documents_dialog.h>

#include <QDesktopServices>
#include <QHBoxLayout>
#include <QImage>
#include <QLineEdit>
#include <QPushButton>
#include <QTextTable>
#include <QVBoxLayout>

#include <algorithm>

namespace fell::app {

DocumentPages::DocumentPages(QWidget* parent)
    : QTextBrowser(parent)
{
    setObjectName(QStringLiteral("documentPages"));
    setFrameShape(QFrame::NoFrame);
    document()->setDocumentMargin(14);
}

QVariant DocumentPages::loadResource(int type, const QUrl& name)
{
    const QVariant loaded = QTextBrowser::loadResource(type, name);
    if (type != QTextDocument::ImageResource)
        return loaded;
    constexpr int kMargins = 60, kLeast = 200; // pixels
    QImage picture(source().resolved(name).toLocalFile());
    const int width = std::max(kLeast, viewport()->width() - kMargins);
    return picture.width() > width ? picture.scaledToWidth(width, Qt::SmoothTransformation) : picture;
}

void DocumentPages::doSetSource(const QUrl& url, QTextDocument::ResourceType type)
{
    const QUrl target = source().resolved(url);
    const bool isPage = target.isLocalFile() && target.path().endsWith(QLatin1String(".md"));
    if (!isPage && !url.isEmpty() && !(target.hasFragment() && target.adjusted(QUrl::RemoveFragment) == source())) {
        QDesktopServices::openUrl(target);
        return;
    }
    QTextBrowser::doSetSource(target, isPage ? QTextDocument::MarkdownResource : type);
    spaceTables();
}

/// Cells with room, and lines in the theme's colour.
void DocumentPages::spaceTables()
{
    constexpr int kPadding = 5;
    for (QTextFrame* frame : document()->rootFrame()->childFrames())
        if (auto* table = qobject_cast<QTextTable*>(frame)) {
            QTextTableFormat format = table->format();
            format.setCellPadding(kPadding);
            format.setBorderCollapse(true);
            format.setBorder(1);
            format.setBorderBrush(palette().mid());
            table->setFormat(format);
        }
}

DocumentsDialog::DocumentsDialog(const QDir& folder, QWidget* parent)
    : QDialog(parent)
    , m_pages(new DocumentPages(this))
{
    setObjectName(QStringLiteral("documentsDialog"));
    setWindowTitle(tr("Documents"));
    resize(860, 700);
    auto* column = new QVBoxLayout(this);
    auto* row = new QHBoxLayout;
    const auto button = [&](const QString& text, const char* name, auto slot) {
        auto* made = new QPushButton(text, this);
        made->setObjectName(QLatin1String(name));
        made->setAutoDefault(false);
        connect(made, &QPushButton::clicked, m_pages, slot);
        row->addWidget(made);
        return made;
    };
    QPushButton* back = button(tr("Back"), "documentsBack", &QTextBrowser::backward);
    QPushButton* forward = button(tr("Forward"), "documentsForward", &QTextBrowser::forward);
    button(tr("Contents"), "documentsHome", &QTextBrowser::home);
    back->setEnabled(false);
    forward->setEnabled(false);
    connect(m_pages, &QTextBrowser::backwardAvailable, back, &QPushButton::setEnabled);
    connect(m_pages, &QTextBrowser::forwardAvailable, forward, &QPushButton::setEnabled);
    auto* search = new QLineEdit(this);
    search->setObjectName(QStringLiteral("documentsSearch"));
    search->setPlaceholderText(tr("Find on this page: Enter for the next place"));
    search->setClearButtonEnabled(true);
    connect(search, &QLineEdit::returnPressed, this, [this, search] {
        if (!m_pages->find(search->text())) {
            m_pages->moveCursor(QTextCursor::Start);
            m_pages->find(search->text());
        }
    });
    row->addWidget(search, 1);
    column->addLayout(row);
    column->addWidget(m_pages, 1);
    m_pages->setSource(
        QUrl::fromLocalFile(folder.filePath(QStringLiteral("index.md"))), QTextDocument::MarkdownResource);
}

} // namespace fell::app

#include "moc_documents_dialog.cpp"
