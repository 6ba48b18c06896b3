! Constants of nature, in units of the SI.
module constants
  use kinds, only: wp
  implicit none
  public
  real(wp), parameter :: stefan_boltzmann = 5.670374e-8_wp  ! W/(m2 K4)
  real(wp), parameter :: zero_celsius = 273.15_wp           ! K
  real(wp), parameter :: heat_of_vaporisation = 2.26e6_wp   ! J/kg
end module constants
