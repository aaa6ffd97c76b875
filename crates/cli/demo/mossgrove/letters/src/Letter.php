<?php

namespace Mossgrove\Letters;

use Mossgrove\Letters\Members\Member;
use Mossgrove\Letters\Printing\{Paper, Printable};

final class Letter implements Printable
{
    public function __construct(private Member $member, private string $text)
    {
    }

    public function paper(): Paper
    {
        return Paper::A5;
    }

    public function lines(): array
    {
        return [salutation($this->member) . ',', '', $this->text];
    }
}
