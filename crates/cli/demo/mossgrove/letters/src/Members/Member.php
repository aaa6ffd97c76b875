<?php

namespace Mossgrove\Letters\Members;

class Member
{
    public function __construct(public readonly string $name, public readonly int $since)
    {
    }
}
