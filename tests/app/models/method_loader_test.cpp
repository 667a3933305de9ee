// SPDX-License-Identifier: GPL-3.0-or-later
// Libraries that are checked in a real separate process, loaded, and loaded again when they are built again.
#include "support/all_names.h"
#include "support/build_folders.h"
#include "support/temp_folder.h"
#include <fell/app/models/method_loader.h>
#include <fell/mesh/meshers.h>

#include <QCoreApplication>
#include <QSignalSpy>
#include <QTest>

#include <gtest/gtest.h>

namespace fell::method_loader_test {
namespace {

constexpr int kPatienceMs = 60000;

class MethodLoaderTest : public ::testing::Test {
protected:
    static std::string built(const std::string& name) { return buildFolder() + "/tests/methods/lib" + name + ".so"; }
    /// As a linker does it: another file of the same name.
    QString link(const std::string& name) const
    {
        const auto file = m_folder.path() / "mine.so", half = m_folder.path() / "mine.so.half";
        std::filesystem::copy_file(built(name), half);
        std::filesystem::rename(half, file);
        return QString::fromStdString(file.string());
    }
    bool ends(const QSignalSpy& spy, int count) const
    {
        return QTest::qWaitFor([&] { return spy.count() >= count && m_loader.checking().isEmpty(); }, kPatienceMs);
    }

    int m_count = 0;
    QCoreApplication m_app{m_count, nullptr}; // hears of files that change
    test::TempFolder m_folder;
    MethodLoader m_loader{QString::fromStdString(buildFolder() + "/fell-app")};
    QSignalSpy m_loaded{&m_loader, &MethodLoader::loaded}, m_refused{&m_loader, &MethodLoader::refused};
};

TEST_F(MethodLoaderTest, ALibraryThatPassesIsOneOfTheMeshersAndItsNextBuildIsAnother)
{
    const QString file = link("own-mesher");
    m_loader.load(file);
    EXPECT_EQ(m_loader.checking(), file);
    ASSERT_TRUE(ends(m_loaded, 1)) << (m_refused.isEmpty() ? "" : m_refused[0][0].toString().toStdString());
    const QString first = m_loaded[0][0].toString();
    EXPECT_TRUE(first.startsWith("rows@")) << first.toStdString();
    EXPECT_EQ(m_loaded[0][1].toString(), QString());
    ASSERT_NE(findMesher(first.toStdString()), nullptr);
    EXPECT_TRUE(m_loader.checking().isEmpty());
    // Built again, without a request.
    link("faulty-build-2");
    ASSERT_TRUE(ends(m_loaded, 2));
    EXPECT_EQ(m_loaded[1][1].toString(), first);
    EXPECT_NE(m_loaded[1][0].toString(), first);
    EXPECT_NE(findMesher(first.toStdString()), nullptr) << "the old build can still be compared";
    EXPECT_EQ(m_loader.newest(), QStringList{m_loaded[1][0].toString()});
    // A build that fails its check is said and changes nothing.
    link("faulty-wrong_face");
    ASSERT_TRUE(ends(m_refused, 1));
    EXPECT_TRUE(m_refused[0][0].toString().endsWith("; it is not loaded")) << m_refused[0][0].toString().toStdString();
    EXPECT_EQ(m_loader.newest(), QStringList{m_loaded[1][0].toString()});
    EXPECT_EQ(m_loaded.count(), 2);
    // What is asked for again is chosen again, although it is in the table.
    m_loader.load(QString::fromStdString(built("own-mesher")));
    ASSERT_TRUE(ends(m_loaded, 3));
    m_loader.load(QString::fromStdString(built("own-mesher")));
    ASSERT_TRUE(ends(m_loaded, 4));
    EXPECT_EQ(m_loaded[3], QVariantList({first, QString()}));
}

TEST_F(MethodLoaderTest, WhatCrashesHangsOrIsNoLibraryIsRefusedInOneSentence)
{
    const std::pair<std::string, const char*> kCases[]{{built("faulty-crash"), "faulty crashes (Segmentation fault)"},
        {built("faulty-hang"), "faulty does not end within 1 s"}, {built("faulty-load-crash"), ""},
        {m_folder.write("text.so", "no library"), "no shared library that can be loaded"},
        {(m_folder.path() / "gone.so").string(), "a shared library is expected"}};
    const std::size_t before = meshers().size();
    int count = 0;
    for (const auto& [file, part] : kCases) {
        m_loader.load(QString::fromStdString(file));
        ASSERT_TRUE(ends(m_refused, ++count)) << file;
        const std::string said = m_refused.back()[0].toString().toStdString();
        EXPECT_NE(said.find(part), std::string::npos) << said;
        EXPECT_NE(said.find(file), std::string::npos) << said;
    }
    EXPECT_EQ(meshers().size(), before);
    EXPECT_EQ(m_loaded.count(), 0);
}

TEST_F(MethodLoaderTest, ACheckCanBeCancelledAndACheckerThatIsNotThereIsSaid)
{
    m_loader.load(QString::fromStdString(built("faulty-hang")));
    m_loader.load(QString::fromStdString(built("own-mesher"))); // waits
    m_loader.cancel();
    EXPECT_TRUE(m_loader.checking().isEmpty());
    QTest::qWait(200);
    EXPECT_EQ(m_loaded.count() + m_refused.count(), 0);
    MethodLoader other(QStringLiteral("/nothing/fell-app"));
    const QSignalSpy refused(&other, &MethodLoader::refused);
    other.load(QString::fromStdString(built("own-mesher")));
    ASSERT_TRUE(QTest::qWaitFor([&] { return refused.count() == 1; }, kPatienceMs));
    EXPECT_TRUE(refused[0][0].toString().contains("/nothing/fell-app does not start"));
}

} // namespace
} // namespace fell::method_loader_test
