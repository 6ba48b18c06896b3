! Heat that hot surfaces send.
module radiation
  use kinds, only: wp
  use constants, only: stefan_boltzmann
  implicit none
  private
  public :: radiative_coefficient
contains
  ! As if it were handed over by air: W/(m2 K).
  pure real(wp) function radiative_coefficient(emissivity, surface, surroundings)
    real(wp), intent(in) :: emissivity, surface, surroundings
    radiative_coefficient = emissivity*stefan_boltzmann*(surface + surroundings)*(surface**2 + surroundings**2)
  end function radiative_coefficient
end module radiation
