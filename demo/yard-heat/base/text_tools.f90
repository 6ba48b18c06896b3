! Numbers as text of a given form.
module text_tools
  use kinds, only: wp
  implicit none
  private
  public :: fixed, exactly
contains
  function fixed(number, digits) result(text)
    real(wp), intent(in) :: number
    integer, intent(in) :: digits
    character(len=:), allocatable :: text
    character(len=40) :: form, line
    write (form, '(a,i0,a)') '(f30.', digits, ')'
    write (line, form) number
    text = trim(adjustl(line))
  end function fixed
  ! All the digits of a number, so that two of them are the same only when the numbers are.
  function exactly(number) result(text)
    real(wp), intent(in) :: number
    character(len=:), allocatable :: text
    character(len=40) :: line
    write (line, '(es24.17)') number
    text = trim(adjustl(line))
  end function exactly
end module text_tools
