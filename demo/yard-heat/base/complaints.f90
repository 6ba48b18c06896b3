! Ends the model with a message.
module complaints
  use, intrinsic :: iso_fortran_env, only: error_unit
  implicit none
  private
  public :: complain
contains
  subroutine complain(message)
    character(len=*), intent(in) :: message
    write (error_unit, '(a)') 'firing: '//trim(message)
    error stop 2
  end subroutine complain
end module complaints
