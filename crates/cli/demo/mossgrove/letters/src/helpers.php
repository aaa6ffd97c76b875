<?php

namespace Mossgrove\Letters;

const SALUTATION = 'Dear';

function salutation(Members\Member $member): string
{
    return SALUTATION . ' ' . $member->name;
}
