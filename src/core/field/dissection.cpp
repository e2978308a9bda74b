#include "field/dissection.h"
#include <algorithm>

namespace ng {
namespace {

class Dissection {
  public:
    Dissection(const Mesh& mesh, const std::vector<char>& wanted)
        : mesh_(mesh), wanted_(wanted), side_(mesh.nodes.size(), 0), centre_(mesh.triangles.size()) {
        std::vector<int> all(mesh.triangles.size());
        for (std::size_t t = 0; t < all.size(); ++t) {
            all[t] = static_cast<int>(t);
            const auto& n = mesh.triangles[t];
            centre_[t] = mesh.nodes[static_cast<std::size_t>(n[0])] + mesh.nodes[static_cast<std::size_t>(n[1])] +
                         mesh.nodes[static_cast<std::size_t>(n[2])];
        }
        placed_.assign(mesh.nodes.size(), 0);
        order_.reserve(mesh.nodes.size());
        split(all.data(), all.data() + all.size());
    }
    std::vector<int> take() { return std::move(order_); }

  private:
    const Mesh& mesh_;
    const std::vector<char>& wanted_;
    std::vector<int> side_; // stamp of the half that a node was first seen in
    std::vector<Point> centre_;
    std::vector<char> placed_;
    std::vector<int> order_;
    int stamp_ = 0;

    void place_nodes(const int* begin, const int* end) {
        for (const int* t = begin; t != end; ++t)
            for (const int node : mesh_.triangles[static_cast<std::size_t>(*t)]) {
                const auto n = static_cast<std::size_t>(node);
                if (placed_[n] || !wanted_[n]) continue;
                placed_[n] = 1;
                order_.push_back(node);
            }
    }

    /// Orders all nodes of these triangles: both halves first, what they share last. Nodes that are already
    /// held back by an outer separator are marked placed.
    void split(int* begin, int* end) {
        if (end - begin <= 24) return place_nodes(begin, end);
        double r0 = 1e300, r1 = -r0, z0 = r0, z1 = -r0;
        for (const int* t = begin; t != end; ++t) {
            const Point c = centre_[static_cast<std::size_t>(*t)];
            r0 = std::min(r0, c.r), r1 = std::max(r1, c.r), z0 = std::min(z0, c.z), z1 = std::max(z1, c.z);
        }
        const bool by_r = r1 - r0 > z1 - z0;
        int* middle = begin + (end - begin) / 2;
        std::nth_element(begin, middle, end, [&](int a, int b) {
            const Point &p = centre_[static_cast<std::size_t>(a)], &q = centre_[static_cast<std::size_t>(b)];
            return by_r ? p.r < q.r : p.z < q.z;
        });
        const int left = ++stamp_;
        for (const int* t = begin; t != middle; ++t)
            for (const int node : mesh_.triangles[static_cast<std::size_t>(*t)]) side_[static_cast<std::size_t>(node)] = left;
        std::vector<int> shared;
        for (const int* t = middle; t != end; ++t)
            for (const int node : mesh_.triangles[static_cast<std::size_t>(*t)]) {
                const auto n = static_cast<std::size_t>(node);
                if (side_[n] != left || placed_[n] || !wanted_[n]) continue;
                placed_[n] = 1; // held back from both halves
                shared.push_back(node);
            }
        split(begin, middle);
        split(middle, end);
        order_.insert(order_.end(), shared.begin(), shared.end());
    }
};

} // namespace

std::vector<int> dissection_order(const Mesh& mesh, const std::vector<char>& wanted) {
    return Dissection(mesh, wanted).take();
}

} // namespace ng
