! Heat that moving air hands over.
module convection
  use kinds, only: wp
  implicit none
  private
  public :: convective_coefficient
contains
  pure real(wp) function convective_coefficient(speed)
    real(wp), intent(in) :: speed  ! m/s
    convective_coefficient = 5.8_wp + 3.9_wp*speed
  end function convective_coefficient
end module convection
