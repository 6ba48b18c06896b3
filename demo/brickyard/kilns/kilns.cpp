#include "kilns/kilns.h"

#include <thread>

namespace kiln {

std::vector<Result> fire_all(const std::vector<std::string>& kilns, const std::vector<curve::Leg>& legs, double peak) {
  std::vector<Result> results(kilns.size());
  std::vector<std::thread> threads;
  for (std::size_t i = 0; i < kilns.size(); ++i) {
    threads.emplace_back([&, i] { results[i] = {kilns[i], curve::simulate(legs, peak)}; });
  }
  for (auto& thread : threads) thread.join();
  return results;
}

}  // namespace kiln
