! What the burners give, held between nothing and all.
module burner
  use kinds, only: wp
  implicit none
  private
  public :: burner_power
  real(wp), parameter :: most = 9.0e5_wp  ! W
contains
  pure real(wp) function burner_power(wanted, actual)
    real(wp), intent(in) :: wanted, actual
    burner_power = min(most, max(0.0_wp, 6.0e3_wp*(wanted - actual)))
  end function burner_power
end module burner
