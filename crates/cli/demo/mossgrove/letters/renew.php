<?php

use Mossgrove\Letters\Letter;
use Mossgrove\Letters\Members;
use Mossgrove\Letters\Printing\Printer;

require_once __DIR__ . '/src/helpers.php';

$register = new Members\Register();
$register->add(new Members\Member('Odile Fennimore', 2011));

$printer = new Printer();
foreach ($register->since(2020) as $member) {
    $printer->print(new Letter($member, 'Your year with us ends in March.'));
}
?>
<p>Letters: <?= count($register->since(2020)) ?></p>
