<?php

namespace Mossgrove\Letters\Printing;

enum Paper: string
{
    case A4 = 'a4';
    case A5 = 'a5';
}
