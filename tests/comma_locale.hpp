// A desktop that is at home where numbers have a decimal comma.
#pragma once

#include "programs.hpp"

#include <clocale>
#include <cstdlib>
#include <string>

namespace heron::test {

/// The C library's locale while it lives: what Qt sets from the desktop's, and a program that reads files by
/// it takes 5.25 for 5.
class CommaLocale {
  public:
    CommaLocale() {
        const auto made = run("localedef -c -i de_DE -f UTF-8 " + folder_.file("comma.UTF-8"));
        ::setenv("LOCPATH", folder_.file("").c_str(), 1);
        set_ = std::setlocale(LC_ALL, "comma.UTF-8") != nullptr;
    }
    CommaLocale(const CommaLocale &) = delete;
    CommaLocale &operator=(const CommaLocale &) = delete;
    ~CommaLocale() {
        std::setlocale(LC_ALL, "C");
        ::unsetenv("LOCPATH");
    }
    /// Whether the C library prints and reads numbers that way now.
    bool in_force() const {
        return set_ && std::to_string(1.5).find(',') != std::string::npos && std::strtod("1.5", nullptr) == 1;
    }

  private:
    Folder folder_;
    bool set_ = false;
};

} // namespace heron::test
