// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/temp_folder.h"
#include <fell/app/models/preferences.h>

#include <QFile>
#include <gtest/gtest.h>

namespace fell::app {
namespace {

QString fileIn(const test::TempFolder& folder)
{
    return QString::fromStdString((folder / "deep/window.ini").string());
}

void write(const QString& name, const QByteArray& bytes)
{
    QFile file(name);
    ASSERT_TRUE(file.open(QIODevice::WriteOnly));
    file.write(bytes);
}

TEST(Preferences, WhatIsWrittenIsReadAgain)
{
    const test::TempFolder folder;
    Preferences kept;
    kept.geometry = QByteArray("\x01\0\xff;=\n", 6);
    kept.page = "view.transect";
    kept.stage = "cull";
    kept.theme = "slate";
    kept.recentWorlds = {"/home/a/dale, with a comma.fell", "/home/a/täl.fell"};
    kept.keys = {{"tool=blast", QKeySequence("Ctrl+Alt+T")}, {"view.field", QKeySequence()}};
    kept.distances = {{"software rasteriser x (LLVM 15, 256 bits)", 512}, {"another=one", 4096}};
    ASSERT_TRUE(writePreferences(kept, fileIn(folder)));
    EXPECT_EQ(readPreferences(fileIn(folder)), kept);
    // What is not there any more is gone from the file too.
    kept.keys.remove("view.field");
    kept.recentWorlds.clear();
    ASSERT_TRUE(writePreferences(kept, fileIn(folder)));
    EXPECT_EQ(readPreferences(fileIn(folder)), kept);
}

TEST(Preferences, AFileThatIsMissingOrDamagedGivesStandardValues)
{
    const test::TempFolder folder;
    const QString file = QString::fromStdString((folder / "window.ini").string());
    EXPECT_EQ(readPreferences(file), Preferences());
    EXPECT_EQ(readPreferences(QString::fromStdString(folder.path().string())), Preferences()) << "a folder";
    write(file, QByteArray("\0\xff[[[\n=;\n[window\npage", 20));
    EXPECT_EQ(readPreferences(file), Preferences());
    write(file, QByteArray(2 << 20, 'x'));
    EXPECT_EQ(readPreferences(file), Preferences());
}

TEST(Preferences, AValueThatIsNotAllowedIsLeftOut)
{
    const test::TempFolder folder;
    const QString file = QString::fromStdString((folder / "window.ini").string());
    QByteArray text = "[window]\ntheme=purple\npage=" + QByteArray(5000, 'p') + "\nstage=mesh\n[worlds]\nrecent=";
    for (int i = 0; i < 20; ++i)
        text += "/w" + QByteArray::number(i % 12) + ", ";
    write(file, text + "relative.fell\n");
    const Preferences read = readPreferences(file);
    EXPECT_EQ(read.theme, "");
    EXPECT_EQ(read.page, "");
    EXPECT_EQ(read.stage, "mesh");
    ASSERT_EQ(read.recentWorlds.size(), kRecentWorlds);
    EXPECT_EQ(read.recentWorlds.last(), "/w7");
}

TEST(Preferences, AWorldThatIsOpenedAgainIsTheFirstOfTheRecentOnes)
{
    QStringList worlds;
    for (int i = 0; i < 12; ++i)
        worlds = withRecent(worlds, QStringLiteral("/w%1").arg(i));
    EXPECT_EQ(worlds, QStringList({"/w11", "/w10", "/w9", "/w8", "/w7", "/w6", "/w5", "/w4"}));
    EXPECT_EQ(withRecent(worlds, "/w8").mid(0, 4), QStringList({"/w8", "/w11", "/w10", "/w9"}));
    EXPECT_EQ(withRecent(worlds, "/w8").size(), kRecentWorlds);
}

} // namespace
} // namespace fell::app
