#include "nuvat/formats/jcamp.h"

#include <cstdint>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    (void)nuvat::readJcamp({reinterpret_cast<const char*>(data), size});
    return 0;
}
