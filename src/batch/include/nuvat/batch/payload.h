#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace nuvat {

/// One well of a plate, or one run of a list, as the file gave it.
struct ReadingWell {
    std::optional<double> value; ///< absent: not read, or `text` is no number
    std::string text;
    int line = 0;   ///< in the source, 1-based; 0 when the source has no cell for the well
    int column = 0; ///< cell in that line, 1-based
    bool operator==(const ReadingWell&) const = default;
};

/// One number a place: a plate read once, or a column of a list.
struct Grid {
    int rows = 0;
    int columns = 0;
    std::vector<ReadingWell> wells; ///< rows*columns, row by row
    bool operator==(const Grid&) const = default;

    /// The well there; nullptr off the grid.
    const ReadingWell* at(int row, int column) const;
};

/// A curve at one place, x strictly rising.
struct Trace {
    std::string xName, xUnit, yName, yUnit;
    double x0 = 0, step = 0;            ///< where x is empty: x0 + i*step
    std::vector<double> x;              ///< n, or empty for equal steps
    std::vector<double> y;              ///< n; 0 at missing points
    std::vector<std::uint32_t> missing; ///< indexes without y, ascending
    bool operator==(const Trace&) const = default;

    std::size_t size() const { return y.size(); }
    double xAt(std::size_t i) const { return x.empty() ? x0 + static_cast<double>(i) * step : x[i]; }
    /// Keeps x as a begin and a step where that gives the same doubles.
    void setX(std::vector<double> values);
    /// The points that are there. @return x and y of the same length
    std::pair<std::vector<double>, std::vector<double>> points() const;
};

/// What a payload holds.
using PayloadData = std::variant<std::shared_ptr<const Grid>, std::shared_ptr<const Trace>>;

/// Identity of a payload: SHA-256 over what it holds, as 64 hexadecimal digits. Two payloads with the same identity
/// hold the same.
using PayloadId = std::string;

/// Where a payload that is not in memory comes from. Called from any thread.
class PayloadSource {
public:
    virtual ~PayloadSource() = default;
    /// @return a nullptr when it cannot be read, or is not what its identity says
    virtual PayloadData load(const PayloadId& id) = 0;
};

/// What an instrument gave: a handle to data that never changes. Copies share it, and comparing two compares their
/// identities, never what they hold.
class Payload {
public:
    Payload() = default; ///< of nothing: no identity, no data
    static Payload of(Grid grid);
    static Payload of(Trace trace);
    /// One that is read when it is first asked for.
    static Payload stored(PayloadId id, std::shared_ptr<PayloadSource> source);

    const PayloadId& id() const;
    /// Reads it where that has not been done. @return nullptr when it cannot be read, or is of another kind
    std::shared_ptr<const Grid> grid() const;
    std::shared_ptr<const Trace> trace() const;
    bool isInMemory() const; ///< whether it was made here, or has been read
    /// Whether it can be read, whatever it is.
    bool isReadable() const;
    /// How many handles share the data.
    long useCount() const { return m_state.use_count(); }
    friend bool operator==(const Payload& a, const Payload& b) { return a.m_state == b.m_state || a.id() == b.id(); }

private:
    struct State;
    PayloadData data() const;
    std::shared_ptr<State> m_state;
};

/// The identity of a grid. Source: FIPS 180-4 (SHA-256) over rows, columns and, well by well, whether there is a value,
/// its bits, the text with its length, line and column; whole numbers as eight bytes, the lowest first.
PayloadId identityOf(const Grid& grid);
/// The identity of a trace: over "trace", the four names with their lengths, x0, step, the number of points, x, y and
/// the missing points in the same way.
PayloadId identityOf(const Trace& trace);

class WordWriter;
/// All of a trace as words: what its identity is taken of and what batch files keep, so it never changes.
void write(const Trace& trace, WordWriter& out);

/// A value that copies share. Two are equal when what they hold is; there always is something.
template<class T> class Shared {
public:
    Shared() : m_value(std::make_shared<const T>()) {}
    Shared(T value) : m_value(std::make_shared<const T>(std::move(value))) {}
    const T& operator*() const { return *m_value; }
    const T* operator->() const { return m_value.get(); }
    operator const T&() const { return *m_value; } // NOLINT: whoever reads one need not know that it is shared
    friend bool operator==(const Shared& a, const Shared& b) { return a.m_value == b.m_value || *a == *b; }

private:
    std::shared_ptr<const T> m_value;
};

} // namespace nuvat
