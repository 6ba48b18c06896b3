! Water that leaves the bricks.
module moisture
  use kinds, only: wp
  use constants, only: heat_of_vaporisation
  use units, only: celsius
  implicit none
  private
  public :: heat_for_drying
contains
  ! J/(kg K) that drying adds to what a brick takes up.
  pure real(wp) function heat_for_drying(temperature)
    real(wp), intent(in) :: temperature
    real(wp), parameter :: water = 0.012_wp
    heat_for_drying = 0.0_wp
    if (celsius(temperature) > 90.0_wp .and. celsius(temperature) < 130.0_wp) &
      heat_for_drying = water*heat_of_vaporisation/40.0_wp
  end function heat_for_drying
end module moisture
