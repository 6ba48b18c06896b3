! One step of the air between burners, columns and wall.
module air_step
  use kinds, only: wp
  use kiln_state, only: kiln
  use burner, only: burner_power
  use losses, only: loss_of
  use relaxation, only: relaxed
  implicit none
  private
  public :: step_air
contains
  subroutine step_air(state, wanted, taken)
    type(kiln), intent(inout) :: state
    real(wp), intent(in) :: wanted, taken
    real(wp) :: gain, capacity
    capacity = state%room%air*1.2_wp*1005.0_wp*250.0_wp  ! with the kiln's own lining
    gain = burner_power(wanted, state%air) - loss_of(state%room, state%air) - taken
    state%air = relaxed(state%air, state%air + gain*state%settings%step/capacity, 1.0_wp)
    state%hottest = max(state%hottest, state%air)
  end subroutine step_air
end module air_step
