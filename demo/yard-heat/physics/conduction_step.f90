! One implicit step.
submodule (conduction) conduction_step
  use tridiagonal, only: solve_tridiagonal
  use moisture, only: heat_for_drying
  use quartz, only: heat_for_quartz
  implicit none
contains
  module procedure conduct
    real(wp), dimension(size(temperature)) :: below, diagonal, above, right
    real(wp) :: k, storage
    integer :: i, n
    n = grid%cells
    do i = 1, n
      k = clay%conductivity(temperature(i))
      storage = clay%density()*(clay%heat_capacity(temperature(i)) + heat_for_drying(temperature(i)) &
                + heat_for_quartz(temperature(i)))*grid%width/step
      below(i) = merge(0.0_wp, -k/grid%width, i == 1)
      above(i) = merge(0.0_wp, -k/grid%width, i == n)
      diagonal(i) = storage - below(i) - above(i)
      right(i) = storage*temperature(i)
    end do
    diagonal(1) = diagonal(1) + coefficient
    right(1) = right(1) + coefficient*air
    call solve_tridiagonal(below, diagonal, above, right)
    temperature = right
    into = coefficient*(air - temperature(1))
  end procedure conduct
end submodule conduction_step
