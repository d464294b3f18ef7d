// Recordings that lead out of themselves or have no end: refused in words, in bounded time and memory.
#include "recording/recording.hpp"

#include "in_child.hpp"
#include "programs.hpp"

#include <functional>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <hdf5.h>
#include <sys/stat.h>

using namespace heron;
using testing::HasSubstr;

namespace {

class ForgedRecording : public testing::Test {
  protected:
    test::Folder folder;
    std::string path = folder.file("a.nc");

    void forge(const std::function<void(hid_t)> &change) {
        std::filesystem::copy_file(test::sample(), path, std::filesystem::copy_options::overwrite_existing);
        const auto file = H5Fopen(path.c_str(), H5F_ACC_RDWR, H5P_DEFAULT);
        ASSERT_GE(file, 0);
        change(file);
        ASSERT_GE(H5Fclose(file), 0);
    }
    void expect_refused(const std::string &why) {
        EXPECT_EQ(test::done_in_child([&] { (void)RecordingReader::open(path); }, 20),
                  AnsweringChild::End::answered);
        const auto reader = RecordingReader::open(path);
        ASSERT_FALSE(reader);
        EXPECT_THAT(reader.error().line(), HasSubstr(why));
        EXPECT_THAT(reader.error().line(), HasSubstr("nothing was read"));
    }
};

} // namespace

TEST_F(ForgedRecording, NoOtherFileIsOpened) {
    const auto other = folder.file("secret.nc");
    std::filesystem::copy_file(test::sample(), other);
    forge([&](hid_t file) {
        ASSERT_GE(H5Ldelete(file, "/Platform", H5P_DEFAULT), 0);
        ASSERT_GE(H5Lcreate_external(other.c_str(), "/Platform", file, "/Platform", H5P_DEFAULT, H5P_DEFAULT),
                  0);
    });
    expect_refused("/Platform leads to another file");
}

TEST_F(ForgedRecording, ALinkToAPipeDoesNotHang) {
    const auto pipe = folder.file("pipe");
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    forge([&](hid_t file) {
        ASSERT_GE(H5Lcreate_external(pipe.c_str(), "/", file, "/Sonar/Beam_group9", H5P_DEFAULT, H5P_DEFAULT),
                  0);
    });
    expect_refused("leads to another file");
    std::filesystem::remove(path);
    std::filesystem::rename(pipe, path);
    const auto reader = RecordingReader::open(path);
    ASSERT_FALSE(reader);
    EXPECT_THAT(reader.error().line(), HasSubstr("pipe"));
}

TEST_F(ForgedRecording, DataKeptInAnotherFileAreNotRead) {
    forge([&](hid_t file) {
        const hsize_t size[1] = {1000};
        const auto space = H5Screate_simple(1, size, nullptr), how = H5Pcreate(H5P_DATASET_CREATE);
        ASSERT_GE(H5Pset_external(how, "/etc/hostname", 0, 8000), 0);
        const auto set =
            H5Dcreate2(file, "/Sonar/more", H5T_NATIVE_DOUBLE, space, H5P_DEFAULT, how, H5P_DEFAULT);
        ASSERT_GE(set, 0);
        H5Dclose(set), H5Pclose(how), H5Sclose(space);
    });
    expect_refused("/Sonar/more keeps its data in another file");
    forge([&](hid_t file) {
        const hsize_t size[1] = {10};
        const auto space = H5Screate_simple(1, size, nullptr), how = H5Pcreate(H5P_DATASET_CREATE);
        ASSERT_GE(H5Pset_virtual(how, space, "/etc/hostname", "/x", space), 0);
        const auto set =
            H5Dcreate2(file, "/Sonar/more", H5T_NATIVE_DOUBLE, space, H5P_DEFAULT, how, H5P_DEFAULT);
        ASSERT_GE(set, 0);
        H5Dclose(set), H5Pclose(how), H5Sclose(space);
    });
    expect_refused("/Sonar/more keeps its data in another file");
}

TEST_F(ForgedRecording, GroupsWithinThemselvesAreRefused) {
    forge([](hid_t file) {
        ASSERT_GE(H5Lcreate_hard(file, "/Sonar", file, "/Sonar/again", H5P_DEFAULT, H5P_DEFAULT), 0);
    });
    expect_refused("/Sonar/again is a group that is linked to twice");
    forge([](hid_t file) { ASSERT_GE(H5Lcreate_soft("/", file, "/Sonar/up", H5P_DEFAULT, H5P_DEFAULT), 0); });
    expect_refused("/Sonar/up is a soft link");
}

TEST_F(ForgedRecording, MoreGroupsThanAnyRecordingHasAreRefused) {
    forge([](hid_t file) {
        auto at = H5Gopen2(file, "/Sonar", H5P_DEFAULT);
        for (int i = 0; i < 40; ++i) {
            const auto next = H5Gcreate2(at, "a", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
            H5Gclose(at);
            at = next;
        }
        H5Gclose(at);
    });
    expect_refused("lies deeper than any group");
}

// A few bytes that unpack to a gigabyte: the process that tries it has bounded memory, and tells.
TEST_F(ForgedRecording, WhatUnpacksWithoutEndIsRefused) {
    forge([](hid_t file) {
        ASSERT_GE(H5Ldelete(file, "/Environment/sound_speed_indicative", H5P_DEFAULT), 0);
        const hsize_t size[1] = {99'000'000}, chunk[1] = {1'000'000};
        const auto space = H5Screate_simple(1, size, nullptr), how = H5Pcreate(H5P_DATASET_CREATE);
        H5Pset_chunk(how, 1, chunk);
        H5Pset_deflate(how, 9);
        const auto set = H5Dcreate2(file, "/Environment/sound_speed_indicative", H5T_NATIVE_DOUBLE, space,
                                    H5P_DEFAULT, how, H5P_DEFAULT);
        ASSERT_GE(set, 0);
        H5Dclose(set), H5Pclose(how), H5Sclose(space);
    });
    const auto reader = RecordingReader::open(path);
    ASSERT_FALSE(reader);
    EXPECT_FALSE(reader.error().happened.empty());
}
