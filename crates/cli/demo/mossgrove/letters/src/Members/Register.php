<?php

namespace Mossgrove\Letters\Members;

use Mossgrove\Letters\Printing\Printer;

/**
 * All members, by name.
 *
 * @see \Mossgrove\Letters\Letter
 */
class Register
{
    /** @var array<string, Member> */
    private array $members = [];

    public function add(Member $member): void
    {
        $this->members[$member->name] = $member;
    }

    /** @return Member[] */
    public function since(int $year): array
    {
        return array_filter($this->members, fn (Member $member): bool => $member->since <= $year);
    }

    public function print(Printer $printer): void
    {
        foreach ($this->members as $name => $member) {
            $printer->line($name);
        }
    }
}
