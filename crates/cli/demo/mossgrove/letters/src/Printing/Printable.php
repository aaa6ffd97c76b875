<?php

namespace Mossgrove\Letters\Printing;

interface Printable
{
    public function paper(): Paper;

    public function lines(): array;
}
