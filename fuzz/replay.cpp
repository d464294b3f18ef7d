// Gives a target every file of a folder, each also cut short and with bytes changed, always in the same way.
#include "fuzz/target.hpp"

#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <vector>

int main(int argc, char **argv) {
    if (argc != 2) {
        std::fprintf(stderr, "usage: %s FOLDER\n", argv[0]);
        return 2;
    }
    std::size_t seeds = 0, runs = 0;
    for (const auto &entry : std::filesystem::directory_iterator(argv[1])) {
        std::ifstream in(entry.path(), std::ios::binary);
        const std::vector<char> text{std::istreambuf_iterator<char>(in), {}};
        const std::vector<std::uint8_t> good(text.begin(), text.end());
        ++seeds;
        std::mt19937 random(static_cast<unsigned>(good.size()));
        for (int i = 0; i < 2000; ++i, ++runs) {
            auto bytes = good;
            if (i > 0 && !bytes.empty()) {
                for (auto n = 1 + random() % 8; n > 0; --n)
                    bytes[random() % bytes.size()] = static_cast<std::uint8_t>(random());
                if (i % 5 == 0)
                    bytes.resize(random() % bytes.size());
            }
            LLVMFuzzerTestOneInput(bytes.data(), bytes.size());
        }
    }
    std::printf("%zu seeds, %zu runs\n", seeds, runs);
    return seeds > 0 ? 0 : 1;
}
