! What every material of the works has in common.
module material_base
  use kinds, only: wp
  implicit none
  private
  public :: material
  type, abstract :: material
  contains
    procedure(of_temperature), deferred :: conductivity  ! W/(m K)
    procedure(of_temperature), deferred :: heat_capacity ! J/(kg K)
    procedure(constant), deferred :: density             ! kg/m3
    procedure :: emissivity => usual_emissivity
  end type material
  abstract interface
    pure real(wp) function of_temperature(self, temperature)
      import :: material, wp
      class(material), intent(in) :: self
      real(wp), intent(in) :: temperature
    end function of_temperature
    pure real(wp) function constant(self)
      import :: material, wp
      class(material), intent(in) :: self
    end function constant
  end interface
contains
  pure real(wp) function usual_emissivity(self)
    class(material), intent(in) :: self
    usual_emissivity = 0.9_wp
  end function usual_emissivity
end module material_base
