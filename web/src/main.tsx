document.body.append("Zero Leak");
