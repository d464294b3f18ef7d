// The package: made, looked into, and run from where it was laid.
#include "programs.hpp"

#include <filesystem>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

namespace fs = std::filesystem;
using heron::test::run;
using testing::HasSubstr;

namespace {

// Debian's policy manual, chapters 5, 9 and 12: what a package says of itself and where its files lie.
TEST(Package, HoldsWhatADesktopNeedsAndRunsFromWhereItIsLaid) {
    const heron::test::Folder folder;
    const auto build = fs::path(HERON_BIN).parent_path();
    const auto made =
        run("cd " + folder.file("") + " && cpack --config " + (build / "CPackConfig.cmake").string() +
            " -B " + folder.file("deb") + " -D CPACK_OUTPUT_FILE_PREFIX=" + folder.file("deb") +
            " -D CPACK_DEBIAN_COMPRESSION_TYPE=gzip 2>&1");
    ASSERT_EQ(made.code, 0) << made.out;
    std::string deb;
    for (const auto &e : fs::directory_iterator(folder.file("deb")))
        if (e.path().extension() == ".deb")
            deb = e.path().string();
    ASSERT_FALSE(deb.empty()) << made.out;
    const auto info = run("dpkg-deb -I " + deb);
    for (const auto *word :
         {"Package: young-heron", "Version: 0.1.0", "Depends:", "libqt6widgets6", "libgdal32", "libnetcdf"})
        EXPECT_THAT(info.out, HasSubstr(word));
    const auto root = folder.file("root");
    ASSERT_EQ(run("dpkg-deb -x " + deb + " " + root).code, 0);
    for (const auto *file :
         {"usr/bin/young-heron", "usr/bin/heron", "usr/bin/heron-sounder",
          "usr/share/applications/young-heron.desktop",
          "usr/share/metainfo/org.youngheron.YoungHeron.metainfo.xml",
          "usr/share/icons/hicolor/scalable/apps/young-heron.svg", "usr/share/man/man1/heron.1.gz",
          "usr/share/man/man1/young-heron.1.gz", "usr/share/man/man1/heron-sounder.1.gz",
          "usr/share/bash-completion/completions/heron"})
        EXPECT_TRUE(fs::exists(fs::path(root) / file)) << file;
    std::size_t licences = 0;
    for (const auto &e : fs::recursive_directory_iterator(fs::path(root) / "usr/share/doc"))
        licences += e.path().filename() == "copyright" || e.path().filename() == "fonts-COPYRIGHT";
    EXPECT_EQ(licences, 2u);
    // Nothing lies outside /usr, and nothing names the machine it was made on.
    for (const auto &e : fs::directory_iterator(root))
        EXPECT_EQ(e.path().filename(), "usr");
    const auto usr = root + "/usr/bin/";
    EXPECT_THAT(run(usr + "heron --version").out, HasSubstr("0.1.0"));
    EXPECT_EQ(run(usr + "heron info " HERON_SAMPLES "/quarry-pool.nc").code, 0);
    EXPECT_THAT(run("QT_QPA_PLATFORM=offscreen " + usr + "young-heron --version").out, HasSubstr("0.1.0"));
}

// freedesktop.org's desktop entries and AppStream, groff's own eyes on the manual pages, bash on the
// completion.
TEST(Package, WhatItSaysOfItselfIsWellFormed) {
    const std::string package = HERON_SOURCE "/data/package/";
    const auto desktop = run("desktop-file-validate " + package + "young-heron.desktop");
    EXPECT_EQ(desktop.code, 0) << desktop.out;
    const auto xml = run("xmllint --noout " + package + "org.youngheron.YoungHeron.metainfo.xml " + package +
                         "young-heron.svg");
    EXPECT_EQ(xml.code, 0) << xml.out;
    for (const auto *page : {"heron", "young-heron", "heron-sounder"}) {
        const auto man = run("groff -man -ww -z " + package + "man/" + page + ".1 2>&1");
        EXPECT_EQ(man.code, 0);
        EXPECT_EQ(man.out, "") << page;
    }
    EXPECT_EQ(run("bash -n " + package + "heron.bash-completion").code, 0);
    // Each subcommand of heron is in its page and in its completion.
    const auto help = run(std::string(HERON_BIN) + "/heron --help").out;
    for (const auto *command :
         {"info", "read", "chart", "picture", "film", "simulate", "convert", "marks", "trip"}) {
        EXPECT_THAT(help, HasSubstr(command));
        EXPECT_EQ(
            run("grep -q '" + std::string(command) + " \\|B " + command + "' " + package + "man/heron.1")
                .code,
            0)
            << command;
        EXPECT_EQ(run("grep -q ' " + std::string(command) + "\\| " + command + ")' " + package +
                      "heron.bash-completion")
                      .code,
                  0)
            << command;
    }
}

} // namespace
