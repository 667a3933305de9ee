// SPDX-License-Identifier: GPL-3.0-or-later
// The documents of Fell in a separate window, without a browser or a network.
#pragma once

#include <fell/namespaces.h>

#include <QDialog>
#include <QDir>
#include <QTextBrowser>

namespace fell::app {

/// Shows Markdown files of one folder and follows their links. Pictures are scaled to its width. A link that leads
/// elsewhere is handed to the desktop.
class DocumentPages : public QTextBrowser {
    Q_OBJECT
public:
    explicit DocumentPages(QWidget* parent = nullptr);

protected:
    QVariant loadResource(int type, const QUrl& name) override;
    void doSetSource(const QUrl& url, QTextDocument::ResourceType type) override;

private:
    void spaceTables();
};

class DocumentsDialog : public QDialog {
    Q_OBJECT
public:
    /// `folder` contains index.md.
    explicit DocumentsDialog(const QDir& folder, QWidget* parent = nullptr);
    [[nodiscard]] DocumentPages& pages() { return *m_pages; }

private:
    DocumentPages* m_pages;
};

} // namespace fell::app
