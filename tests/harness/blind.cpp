// Runs a target of libFuzzer on files that are spoilt blindly: blind_csv SECONDS FILE … Ends by itself; a crash is a
// finding, and the input that caused it then lies in spoilt-input beside where it was run.
#include <chrono>
#include <cstdint>
#include <cstdlib>
#include <fstream>
#include <iostream>
#include <iterator>
#include <random>
#include <string>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

namespace {

std::string contentOf(const std::string& path) {
    std::ifstream stream(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

/// One to eight changes: a bit, a byte, a stretch doubled, taken out, or put in from another file.
std::string spoilt(std::string text, const std::string& other, std::mt19937_64& random) {
    for (auto left = 1 + random() % 8; left > 0 && !text.empty(); --left) {
        const std::size_t at = random() % text.size();
        const std::size_t length = 1 + random() % 64;
        switch (random() % 5) {
        case 0:
            text[at] = static_cast<char>(text[at] ^ (1 << (random() % 8)));
            break;
        case 1:
            text[at] = static_cast<char>(random());
            break;
        case 2:
            text.insert(at, text.substr(at, length));
            break;
        case 3:
            text.erase(at, length);
            break;
        default:
            text.replace(at, length, other.substr(random() % (other.size() + 1), length));
            break;
        }
    }
    return text;
}

} // namespace

int main(int count, char** words) {
    if (count < 3) {
        std::cout << "Use: " << words[0] << " SECONDS FILE …\n";
        return 2;
    }
    std::vector<std::string> seeds;
    for (int k = 2; k < count; ++k) {
        seeds.push_back(contentOf(words[k]));
        if (seeds.back().empty()) {
            std::cout << words[k] << " is not there or empty\n";
            return 2;
        }
    }
    const auto end = std::chrono::steady_clock::now() + std::chrono::duration<double>(std::atof(words[1]));
    std::mt19937_64 random(20261128);
    long inputs = 0;
    for (; std::chrono::steady_clock::now() < end; ++inputs) {
        const std::string input = spoilt(seeds[random() % seeds.size()], seeds[random() % seeds.size()], random);
        std::ofstream("spoilt-input", std::ios::binary | std::ios::trunc) << input;
        LLVMFuzzerTestOneInput(reinterpret_cast<const std::uint8_t*>(input.data()), input.size());
    }
    std::cout << inputs << " inputs read\n";
    return inputs > 0 ? 0 : 1;
}
