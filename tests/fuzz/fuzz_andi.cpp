// libFuzzer target: whatever the bytes, the reader of an ANDI chromatogram answers with traces or an Error.
#include "nuvat/formats/andi.h"

#include <cstdint>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    (void)nuvat::readAndi(std::string_view(reinterpret_cast<const char*>(data), size));
    return 0;
}
