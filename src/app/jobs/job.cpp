#include "jobs/job.h"

namespace nuvat {

Error errorOfException() {
    try {
        throw;
    } catch (const std::bad_alloc&) {
        return Error{"job.no-memory", "There was not enough memory for this; nothing was changed.",
                     "Close other programs, or choose a smaller file."};
    } catch (const std::exception& e) {
        return Error{"job.failed", "This could not be finished (" + std::string(e.what()) + "); nothing was changed.",
                     "Save the batch under another name and try it again."};
    } catch (...) {
        return Error{"job.failed", "This could not be finished; nothing was changed.",
                     "Save the batch under another name and try it again."};
    }
}

} // namespace nuvat
