// Running other programs from tests: what they printed and how they ended. And folders that go away.
#pragma once

#include <array>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <random>
#include <string>
#include <sys/wait.h>

namespace heron::test {

struct Ran {
    int code = -1;
    std::string out; ///< stdout and stderr together
};

inline Ran run(const std::string &command) {
    Ran ran;
    FILE *pipe = ::popen((command + " 2>&1").c_str(), "r");
    if (pipe == nullptr)
        return ran;
    std::array<char, 4096> buffer{};
    std::size_t n = 0;
    while ((n = std::fread(buffer.data(), 1, buffer.size(), pipe)) > 0)
        ran.out.append(buffer.data(), n);
    const int status = ::pclose(pipe);
    ran.code = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
    return ran;
}

/// A folder for one test, removed with it.
class Folder {
  public:
    Folder() {
        std::random_device random;
        path_ = std::filesystem::temp_directory_path() /
                ("heron-test-" + std::to_string(random()) + std::to_string(random()));
        std::filesystem::create_directories(path_);
    }
    ~Folder() {
        std::error_code ignored;
        std::filesystem::remove_all(path_, ignored);
    }
    Folder(const Folder &) = delete;
    Folder &operator=(const Folder &) = delete;
    std::string file(const std::string &name) const { return (path_ / name).string(); }

  private:
    std::filesystem::path path_;
};

inline std::string contents(const std::string &path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

inline std::string sample() {
    return std::string(HERON_SAMPLES) + "/quarry-pool.nc";
}
inline std::string lake() {
    return std::string(HERON_LAKES) + "/ellemoor.json";
}
inline std::string program(const std::string &name) {
    return std::string(HERON_BIN) + "/" + name;
}

} // namespace heron::test
