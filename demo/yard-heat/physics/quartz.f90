! The jump of quartz at 573 degrees.
module quartz
  use kinds, only: wp
  use units, only: celsius
  implicit none
  private
  public :: heat_for_quartz
contains
  pure real(wp) function heat_for_quartz(temperature)
    real(wp), intent(in) :: temperature
    heat_for_quartz = 0.0_wp
    if (abs(celsius(temperature) - 573.0_wp) < 10.0_wp) heat_for_quartz = 210.0_wp
  end function heat_for_quartz
end module quartz
