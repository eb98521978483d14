// libFuzzer target: whatever the bytes, the reader of an mzXML file answers with traces or an Error.
#include "nuvat/formats/mzxml.h"

#include <cstdint>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    (void)nuvat::readMzxml(std::string_view(reinterpret_cast<const char*>(data), size));
    return 0;
}
