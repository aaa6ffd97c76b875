using System;
using Mossgrove.Members;

namespace Mossgrove.Volunteers
{
    public class Shift
    {
        public Member Member { get; set; }

        public DateTime Day { get; set; }
    }
}
