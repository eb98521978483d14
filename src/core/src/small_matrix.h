#pragma once

#include <boost/container/small_vector.hpp>
#include <cstddef>
#include <span>

namespace nuvat {

/// A matrix by columns; inline storage for the Jacobian of a usual calibration.
class SmallMatrix {
public:
    SmallMatrix(std::size_t rows, std::size_t columns) : m_rows(rows), m_columns(columns), m_values(rows * columns) {}
    double& operator()(std::size_t row, std::size_t column) { return m_values[column * m_rows + row]; }
    double operator()(std::size_t row, std::size_t column) const { return m_values[column * m_rows + row]; }
    std::size_t rows() const { return m_rows; }
    std::size_t columns() const { return m_columns; }

private:
    std::size_t m_rows;
    std::size_t m_columns;
    boost::container::small_vector<double, 160> m_values;
};

/// (J'J)^-1 by Householder QR of J with its columns scaled to length 1.
/// @param jacobian is overwritten; @param inverse columns*columns, row by row; @param weakest the column that is most
/// nearly a combination of the others
/// @return condition of the scaled J (Frobenius norms of R and R^-1); infinite when a column has no length or J has
/// fewer rows than columns
/// Source: G. H. Golub, C. F. Van Loan, Matrix Computations, 4th ed. (2013), section 5.2.
double invertGram(SmallMatrix& jacobian, std::span<double> inverse, std::size_t& weakest);

} // namespace nuvat
