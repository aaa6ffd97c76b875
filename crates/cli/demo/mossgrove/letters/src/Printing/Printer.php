<?php

namespace Mossgrove\Letters\Printing;

use Mossgrove\Letters\Drafts\Draft;

class Printer
{
    private array $out = [];

    public function print(Printable $thing): Draft
    {
        array_map($this->line(...), $thing->lines());
        return new Draft($thing->paper(), $this->out);
    }

    public function line(string $text): void
    {
        $this->out[] = $text;
    }
}
