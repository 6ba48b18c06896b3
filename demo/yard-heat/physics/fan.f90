! How fast the air is, by the time of the firing.
module fan
  use kinds, only: wp
  implicit none
  private
  public :: speed_of_air
contains
  pure real(wp) function speed_of_air(share)
    real(wp), intent(in) :: share  ! of the firing that is over
    speed_of_air = merge(2.5_wp, 6.0_wp, share < 0.7_wp)
  end function speed_of_air
end module fan
