! The firing curve: what the thermometer should show.
module curve
  use kinds, only: wp
  use units, only: kelvin
  use interpolation, only: between
  implicit none
  private
  public :: wanted_temperature
  real(wp), parameter :: shares(6) = [0.0_wp, 0.15_wp, 0.45_wp, 0.6_wp, 0.7_wp, 1.0_wp]
  real(wp), parameter :: heights(6) = [0.02_wp, 0.12_wp, 0.7_wp, 1.0_wp, 1.0_wp, 0.2_wp]
contains
  pure real(wp) function wanted_temperature(share, peak)
    real(wp), intent(in) :: share, peak
    wanted_temperature = kelvin(peak*between(shares, heights, share))
  end function wanted_temperature
end module curve
